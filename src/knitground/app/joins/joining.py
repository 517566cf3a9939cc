"""Taking the sets that share a terrain with the one at hand into it."""

from knitground.app.session import Session
from knitground.core.edits.joined_sets import join_sharing

JOIN_SHARING = "Join with the sets that share a terrain"


def join_sharing_of(session: Session) -> None:
    """Joins the set at hand with all that share a terrain with it, and says with which."""
    join_set = session.join_set
    names = session.attempt(lambda: join_sharing(session.derived, join_set.id)) if join_set else None
    if join_set is None or names is None:
        return
    if names:
        which = ", ".join(f"“{name}”" for name in names[:3]) + (f" and {len(names) - 3} more" if names[3:] else "")
        session.say(f"“{join_set.name}” has the tiles of {which} too; paint all of them on one layer.", "Undo")
    else:
        session.say(
            f"No other set shares a terrain with “{join_set.name}”: of both, a tile must show that terrain alone, in "
            "the same colours."
        )
