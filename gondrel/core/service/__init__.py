"""The use cases: receive, send, prove, save. Plain functions over the layers below."""
