"""Areas and volumes of plain boundaries, integrated along their edges; knows no kernel and no format."""
