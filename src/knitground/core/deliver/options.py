"""What can be chosen of a format: told by the fields of a dataclass, for forms and for the command line alike."""

from collections.abc import Mapping
from dataclasses import fields
from functools import cache
from typing import Any, Literal, NamedTuple, get_args, get_origin, get_type_hints

from annotated_types import Ge, Le
from pydantic import TypeAdapter, ValidationError
from pydantic.fields import FieldInfo

from knitground.core.errors import BadRequest, readable

Form = Literal["choice", "tick", "whole", "number", "text"]
_FORMS: Mapping[type, Form] = {bool: "tick", int: "whole", float: "number", str: "text"}


class Choice(NamedTuple):
    """One thing that can be chosen of a format.

    Attributes
    ----------
    among : tuple of str
        What there is to choose from, of a choice.
    least, most : float
        Of numbers.
    """

    name: str
    title: str
    about: str
    form: Form
    plain: Any
    among: tuple[str, ...] = ()
    least: float = 0.0
    most: float = 0.0

    @property
    def without(self) -> str:
        """What 0 stands for, where it stands for something else than a number; empty where it does not."""
        return self.about.partition("; 0 for ")[2]


@cache
def choices_of(kind: type) -> tuple[Choice, ...]:
    """All that can be chosen, told by the type of a format's options."""
    hints = get_type_hints(kind, include_extras=True)
    return tuple(_choice(one.name, hints[one.name], one.default) for one in fields(kind))


def checked_options(kind: type, said: Mapping[str, Any]) -> Any:
    """The options of a format, with what was said.

    Raises
    ------
    BadRequest
        If there is no such option, or it can't be that.
    """
    known = {one.name: one for one in choices_of(kind)}
    for name in said:
        if name not in known:
            there = f"it has {', '.join(known)}" if known else "it has none"
            raise BadRequest(f"The format has no option “{readable(name)}”; {there}.")
    try:
        return TypeAdapter(kind).validate_python(dict(said))
    except ValidationError as problem:
        name = str(problem.errors()[0]["loc"][0])
        raise BadRequest(
            f"“{readable(said.get(name))}” can't be the option “{name}”; give {may_be(known[name])}."
        ) from None


def may_be(one: Choice) -> str:
    """What can be said for an option, as the end of a sentence."""
    if one.among:
        return "one of " + ", ".join(one.among)
    if one.form == "tick":
        return "yes or no"
    if one.form == "text":
        return one.about
    return f"{'a whole number' if one.form == 'whole' else 'a number'} from {one.least:g} to {one.most:g}"


def _choice(name: str, hint: Any, plain: Any) -> Choice:
    kind, *said = get_args(hint)
    info = next(one for one in said if isinstance(one, FieldInfo))
    title, about = info.title or name, info.description or ""
    if get_origin(kind) is Literal:
        return Choice(name, title, about, "choice", plain, get_args(kind))
    least = next((float(str(one.ge)) for one in info.metadata if isinstance(one, Ge)), 0.0)
    most = next((float(str(one.le)) for one in info.metadata if isinstance(one, Le)), 0.0)
    return Choice(name, title, about, _FORMS[kind], plain, (), least, most)
