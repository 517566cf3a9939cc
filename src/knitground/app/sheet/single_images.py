"""What can be done with the images of a collection: some are taken out, cut as sheets, played as frames or mixed."""

from collections.abc import Callable

from knitground.app.commands import Command
from knitground.app.jobs import Job
from knitground.app.known import with_id
from knitground.app.session import Session
from knitground.core.edits.folders import cut_as_sheets, files_of_images, take_out_images
from knitground.core.edits.image_files import Files, read_images, told_of
from knitground.core.edits.numbered import animate_numbered, mix_numbered
from knitground.core.ground.ground import by_id

CUT_AS_SHEETS = "Cut the chosen images as sheets"
ANIMATE, MIX = "Animate what is numbered", "Mix what is numbered"
_NONE = "No image of a tileset that is made of images is chosen; choose some tiles of one."
_NO_COLLECTION = "No tileset that is made of images is in view; choose one."


class SingleImages:
    """Works on the chosen tiles of the collection at hand."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def commands(self) -> list[Command]:
        """What the finder offers."""
        return [
            Command(CUT_AS_SHEETS, self.cut_as_sheets, refused=self.refused),
            Command("Take the chosen images out of their tileset", self.take_out, refused=self.refused),
            Command(ANIMATE, self.animate, refused=self._refused_as_a_whole),
            Command(MIX, self.mix, refused=self._refused_as_a_whole),
        ]

    def refused(self) -> str:
        """Why nothing can be done."""
        return "" if self._names else _NONE

    def _refused_as_a_whole(self) -> str:
        sheet = with_id(self._session.document.project.sheets, self._session.choices.sheet_id)
        return "" if sheet is not None and sheet.images else _NO_COLLECTION

    @property
    def _names(self) -> frozenset[str]:
        """The names of the chosen images of the collection at hand."""
        chosen = self._session.choices
        sheet = with_id(self._session.document.project.sheets, chosen.sheet_id)
        if sheet is None or not sheet.images:
            return frozenset()
        refs = chosen.selection or ({chosen.tile} if chosen.tile is not None else ())
        return frozenset(ref.cut for ref in refs if ref.sheet == sheet.id)

    def take_out(self) -> None:
        """Takes the chosen images out."""
        document, sheet_id, names = self._session.document, self._session.choices.sheet_id, self._names
        taken = self._session.attempt(lambda: take_out_images(document, sheet_id, names))
        if taken is not None:
            self._session.say(f"Took {len(taken)} image{'s' * (len(taken) != 1)} out of {sheet_id}.", "Undo")

    def animate(self) -> None:
        """Lets images that are numbered be the frames of the first of them."""
        document, sheet_id = self._session.document, self._session.choices.sheet_id
        made = self._session.attempt(lambda: animate_numbered(document, sheet_id))
        if made is not None:
            self._session.choose(selection=frozenset(made), tile=made[0])
            one = f"“{made[0].cut}” plays the images numbered after it."
            many = f"{len(made)} tiles play the images numbered after them; they are chosen."
            self._session.say(one if len(made) == 1 else many, "Undo")

    def mix(self) -> None:
        """Makes mixes of images that are numbered and fill their cells."""
        document, sheet_id = self._session.document, self._session.choices.sheet_id
        made = self._session.attempt(lambda: mix_numbered(document, sheet_id))
        if made is not None:
            self._session.choose(mix_id=made[0])
            first = f"“{by_id(document.project.mixes, made[0]).name}”"
            many = f"{len(made)} mixes are in the project now, to fill with by chance; {first} is chosen."
            one = f"{first} is a mix now, to fill with by chance."
            self._session.say(one if len(made) == 1 else many, "Stage Grow", "Undo")

    def cut_as_sheets(self) -> None:
        """Makes the chosen images sheets of their own, cut by a first guess."""
        document, sheet_id, names = self._session.document, self._session.choices.sheet_id, self._names
        before = document.state.pictures.get(sheet_id)
        images = self._session.attempt(lambda: files_of_images(document, sheet_id, names))
        if images is None:
            return

        def read(report: Callable[[float], None]) -> Files:
            return read_images(images, report, document.project)

        def done(found: Files) -> None:
            if document is not self._session.document or document.state.pictures.get(sheet_id) is not before:
                return
            made = self._session.attempt(lambda: cut_as_sheets(document, sheet_id, names, found.read))
            if made is not None:
                self._session.choose(sheet_id=made[0])
                self._session.say(told_of(found.read), "Undo")

        self._session.run(Job("Cutting the images", read), done)
