"""Whether any modules import each other in a circle; names the modules of one and fails. Run by `make lint`."""

import sys
from graphlib import CycleError, TopologicalSorter

import grimp

PACKAGE = "amber_gable"


def main() -> int:
    graph = grimp.build_graph(PACKAGE)
    imports = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    try:
        TopologicalSorter(imports).prepare()
    except CycleError as fault:
        print(f"Modules import each other: {' -> '.join(fault.args[1])}", file=sys.stderr)
        return 1
    print(f"{len(imports)} modules, no circle.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
