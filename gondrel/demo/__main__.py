"""``python -m gondrel.demo FOLDER`` writes the demo's file into a folder and says where."""

import sys

from gondrel.demo.make import make_demo

if __name__ == "__main__":
    if len(sys.argv) != 2:
        print("usage: python -m gondrel.demo FOLDER", file=sys.stderr)
        sys.exit(2)
    print(make_demo(sys.argv[1]))
