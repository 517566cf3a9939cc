"""The window: it shows the core's document, sends it commands, and holds no truth of its own."""

# Qt's bindings read the source of every module that is imported after them, which takes a tenth of the time that the
# window needs to come up; so what the window stands on comes first.
import knitground.core.deliver.run
import knitground.core.edits.blocks
import knitground.core.project.derived
import knitground.core.walk.wayfinding  # noqa: F401
