"""Adding sheets and images to the project: read beside the interface, told in a sentence."""

from collections.abc import Callable, Sequence
from pathlib import Path

from knitground.app.first_guess import CLEAR, told_of_guess
from knitground.app.jobs import Job
from knitground.app.session import Session
from knitground.app.sheet.single_images import ANIMATE, CUT_AS_SHEETS, MIX
from knitground.app.watcher import Watcher
from knitground.core.edits.clear_offers import ClearOffer, clear_offer, offer_for_images
from knitground.core.edits.folders import Contents, add_contents, read_contents
from knitground.core.edits.image_files import Files, insert_reads, read_files, told_of
from knitground.core.edits.importing import (
    Images,
    add_collection,
    extend_collection,
    images_of,
    read_collection,
    read_folder,
)
from knitground.core.edits.numbered import floors_among, numbered_runs, told_of_runs
from knitground.core.ground.ground import by_id
from knitground.core.sheet.isometric import usual_foot
from knitground.core.sheet.sheets_among import large_among
from knitground.core.tiles.tile import TileRef

_MOST_NAMED = 20
"""How many files that are left out are named."""


class Adder:
    """Adds to a session's project, and lets files be watched that sheets come from."""

    def __init__(self, session: Session, watcher: Watcher) -> None:
        self._session, self._watcher = session, watcher

    def add_sheet_files(self, paths: Sequence[Path]) -> None:
        """Adds image files as sheets, as one step; they are read beside the interface."""
        if not paths:
            return
        document = self._session.document

        def read(report: Callable[[float], None]) -> tuple[Files, ClearOffer | None]:
            found = read_files(paths, report, document.project)
            first = found.read[0]
            return found, clear_offer(first.picture.pixels, first.cuts) if first.picture is not None else None

        def done(found: tuple[Files, ClearOffer | None]) -> None:
            if document is self._session.document:
                self._add_sheets(*found)

        title = "Reading the sheet" if len(paths) == 1 else f"Reading {len(paths)} sheets"
        self._session.run(Job(title, read), done)

    def add_folder(self, folder: Path) -> None:
        """Adds what a folder holds: sheets, and single images as one tileset."""
        document = self._session.document

        def done(found: Contents) -> None:
            if document is not self._session.document:
                return
            made = self._session.attempt(lambda: add_contents(document, folder.name, found))
            if made is None:
                return
            collection, sheets = made
            if found.sheets is not None:
                self._follow(sheets, found.sheets)
            if found.images is not None:
                self._told_of_images(str(collection), found.images, len(sheets))
            elif found.sheets is not None:
                self._show_sheet(sheets[0])
                self._tell(told_of(found.sheets.read), found.sheets.left_out)

        job = Job("Reading the folder", lambda report: read_contents(folder, report, document.project))
        self._session.run(job, done)

    def add_images(self, paths: list[Path]) -> None:
        """Adds image files, or all images of a folder, as one tileset; read beside the interface."""
        document = self._session.document

        def read(report: Callable[[float], None]) -> Images:
            return read_folder(paths[0], report) if paths[0].is_dir() else read_collection(paths, report=report)

        def done(found: Images) -> None:
            if document is not self._session.document:
                return
            name = paths[0].name if paths[0].is_dir() else paths[0].parent.name
            made = self._session.attempt(lambda: add_collection(document, name, found))
            if made is not None:
                self._told_of_images(made, found)

        self._session.run(Job("Reading the images", read), done)

    def add_more_images(self, sheet_id: str, paths: list[Path]) -> None:
        """Puts image files into a collection that there is; read beside the interface."""
        document = self._session.document
        known = images_of(document, sheet_id)

        def read(report: Callable[[float], None]) -> Images:
            return read_collection(paths, known, report)

        def done(found: Images) -> None:
            if document is not self._session.document or images_of(document, sheet_id) != known:
                return
            count = self._session.attempt(lambda: extend_collection(document, sheet_id, found))
            if count is not None:
                self._show_sheet(sheet_id)
                runs, leads = self._told_of_runs(sheet_id)
                says = f"{count} image{'s' * (count != 1)} more; all others stay what they are.{runs}"
                self._tell(says, found.left_out, *leads)

        self._session.run(Job("Reading the images", read), done)

    def _add_sheets(self, files: Files, offer: ClearOffer | None) -> None:
        made = self._session.attempt(lambda: insert_reads(self._session.document, files.read))
        if made is None:
            return
        self._follow(made, files)
        self._show_sheet(made[0])
        first, *others = files.read
        if others or files.left_out:
            self._tell(told_of(files.read), files.left_out)
        elif first.frames:
            self._session.say(f"{first.name} holds {len(first.frames)} frames; its first tile plays them.")
        else:
            says, *leads = told_of_guess(first, offer)
            self._session.say(says, *leads)

    def _follow(self, sheets: Sequence[str], files: Files) -> None:
        """Lets the files be watched that sheets were read from."""
        for name, read in zip(sheets, files.read, strict=True):
            if read.origin is not None and not read.frames:
                self._watcher.follow_origin(name, read.origin)

    def _told_of_images(self, sheet_id: str, found: Images, sheets: int = 0) -> None:
        """Shows a new tileset of single images, and says how they stand, and how many sheets came with them."""
        self._show_sheet(sheet_id)
        cuts = by_id(self._session.document.project.sheets, sheet_id).cuts
        foot, offer = usual_foot(cuts), offer_for_images(found.picture.pixels, cuts)
        how = f"they stand on {foot.says}" if foot else "each a tile of its own"
        says = f"{len(found.files)} images are one tileset now; {how if offer is None else offer.says}."
        leads = [CLEAR] * (offer is not None)
        images = [found.picture.pixels[place.slices()] for place in found.picture.places]
        large = large_among(images, all_may=foot is None)
        if large:
            # The cuts of a collection have its images' names, in their order.
            self._session.choose(selection=frozenset(TileRef(sheet_id, cuts[at].id, 0, 0) for at in large))
            leads.append(CUT_AS_SHEETS)
        runs, more = self._told_of_runs(sheet_id)
        says, leads = says + runs, leads + more
        if sheets:
            says += " One more is a sheet of its own." if sheets == 1 else f" {sheets} more are sheets of their own."
        self._tell(says, found.left_out, *leads)

    def _told_of_runs(self, sheet_id: str) -> tuple[str, list[str]]:
        """What is said of images that look like frames, to stand behind a sentence, and what animates or mixes them."""
        document = self._session.document
        runs = list(numbered_runs(document, sheet_id).values())
        floors = floors_among(document, sheet_id, runs)
        return (f" {told_of_runs(runs, len(floors))}", [ANIMATE, *[MIX][: len(floors)]]) if runs else ("", [])

    def _tell(self, sentence: str, left_out: Sequence[str], *leads: str) -> None:
        """Says what came in, and what could not come along."""
        begin = "Left out" if len(left_out) == 1 else f"{len(left_out)} are left out (all are named here); the first"
        if left_out:
            sentence = "\n".join([f"{sentence} {begin}: {left_out[0]}", *left_out[1:_MOST_NAMED]])
        self._session.said.emit(sentence, bool(left_out))
        self._session.led.emit(leads)

    def _show_sheet(self, sheet_id: str) -> None:
        self._session.set_stage("sheet")
        self._session.choose(sheet_id=sheet_id)
