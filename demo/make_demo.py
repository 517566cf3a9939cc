"""Makes the demo: draws the sheets and builds the project; or runs the whole chain from the sheets to a delivery.

python demo/make_demo.py             draws demo/apiary anew
python demo/make_demo.py --out DIR   from the sheets: cut, label, grow, knit, stitch, mix, render, deliver
"""

import argparse
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
sys.path.insert(0, str(HERE))

from knitground.core.deliver import EXPORTERS  # noqa: E402
from knitground.core.errors import KnitGroundError  # noqa: E402
from knitground.core.project.derived import Derived  # noqa: E402
from knitground.core.project.document import Document  # noqa: E402
from knitground.core.project.file import inside, load_project  # noqa: E402
from knitground.core.project.model import Palette, Picture, Project, State  # noqa: E402
from knitground.core.sheet.picture import read_file  # noqa: E402
from laying import lay  # noqa: E402

APIARY = HERE / "apiary"


def fresh(project: Project) -> Document:
    """A document with the sheets' pictures and bare grounds."""
    pictures = {s.id: Picture.decode(read_file(inside(APIARY, s.file)), s.file) for s in project.sheets}
    planes = {g.id: {la.id: la.blank(g.board, project) for la in g.layers} for g in project.grounds}
    return Document(State(project, pictures, planes), Palette())


def draw_anew() -> None:
    """Draws the sheets and writes the project."""
    from art.sheets import write_sheets
    from definitions import project

    write_sheets(APIARY / "sheets")
    document = fresh(project())
    lay(document)
    document.save(APIARY)
    (APIARY / "knitground.previous.json").unlink(missing_ok=True)


def run_chain(out: Path) -> None:
    """From the sheets and the project's definitions to a delivered ground; nothing painted is taken over."""
    state, _, _ = load_project(APIARY)
    document = fresh(state.project)
    lay(document)
    derived = Derived(document)
    ground = document.project.grounds[0].id
    for kind in ("png", "json"):
        EXPORTERS[kind].write(derived, ground, out / f"ground{EXPORTERS[kind].ending}")
    print(f"wrote ground.png, ground.json and ground-tileset.png to {out}")


def main() -> int:
    """Reads the arguments and does the one or the other."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--out", type=Path, metavar="DIR", help="run the chain and write the delivery there")
    arguments = parser.parse_args()
    try:
        run_chain(arguments.out) if arguments.out else draw_anew()
    except KnitGroundError as problem:
        print(f"knitground: {problem}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
