"""What all document records share: frozen, strict about keys and numbers, units in the schema."""

from __future__ import annotations

import difflib
import reprlib
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, ClassVar, TypeAlias, TypeVar

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, Strict, ValidationError, create_model
from pydantic.fields import FieldInfo

from lesna.model.errors import InputError
from lesna.model.shown import shortened

T = TypeVar("T", bound="Record")


class Record(BaseModel):
    """A frozen piece of a document that refuses unknown keys and non-finite numbers."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    #: headings of its fields on a form, each with the first field that stands under it
    GROUPS: ClassVar[tuple[tuple[str, str], ...]] = ()
    #: fields that have a place of their own on a screen
    ELSEWHERE: ClassVar[frozenset[str]] = frozenset()
    #: fields without which nobody describes one, in the order in which they are typed; a form folds the others away
    SHORT: ClassVar[tuple[str, ...]] = ()
    #: fields that one kind needs beside them, by kind
    OF_KIND: ClassVar[Mapping[str, tuple[str, ...]]] = {}
    #: fields that hold for one row alone, which another that starts as it does not have
    ITS_OWN: ClassVar[frozenset[str]] = frozenset()

    @classmethod
    def read(cls: type[T], raw: Any) -> T:
        """The record made from plain data."""
        try:
            return cls.model_validate(raw)
        except ValidationError as error:
            raise explain(error, cls) from None

    def with_values(self: T, **values: Any) -> T:
        """A checked copy with some fields changed (see `read` for the errors)."""
        fields = type(self).model_fields
        return type(self).read({fields[key].alias or key: value for key, value in self.under(values).items()})

    def under(self, values: Mapping[str, Any]) -> dict[str, Any]:
        """Its fields with others written over them, unchecked."""
        return {**dict(self), **values}


#: positive numbers of a document lie between these in whatever unit they have: beyond, a slip of the pen would only make
#: sums that overflow
SMALLEST, LARGEST = 1e-6, 1e9


def number(unit: str, text: str, default: Any = ..., *, label: str = "", symbol: str = "", **bounds: Any) -> Any:
    """A numeric field whose unit and meaning stand in the JSON Schema; in any unit it lies between `SMALLEST` and `LARGEST`."""
    if bounds.get("gt") == 0:
        bounds["ge"] = SMALLEST
    if "le" not in bounds and "lt" not in bounds:
        bounds["le"] = LARGEST
    return Field(default, description=text, json_schema_extra=_told(unit, label, symbol), strict=True, **bounds)


def count(text: str, default: Any = ..., *, label: str = "", symbol: str = "", **bounds: Any) -> Any:
    """A field that counts things: a `Whole` number, at most `LARGEST`."""
    if "le" not in bounds and "lt" not in bounds:
        bounds["le"] = int(LARGEST)
    return Field(default, description=text, json_schema_extra=_told("1", label, symbol), **bounds)


def truth(text: str, default: Any = ..., *, label: str = "") -> Any:
    """A field that holds or does not: true or false, no word for it."""
    return Field(default, description=text, json_schema_extra=_told("", label), strict=True)


def several(unit: str, text: str, default: Any = (), *, most: int, label: str = "") -> Any:
    """A field of numbers, or of points or outlines of them, bounded so that no document asks for work without end."""
    return Field(default, description=text, json_schema_extra=_told(unit, label), max_length=most)


def words(label: str, text: str | None = None) -> Any:
    """A field of words, empty where it is left out."""
    return Field("", description=text, json_schema_extra=_told("", label))


def _told(unit: str = "", label: str = "", symbol: str = "") -> dict[str, Any]:
    """What a field says of itself besides its meaning: unit, plain name, and the symbol of the trade."""
    return {key: value for key, value in (("unit", unit), ("label", label), ("symbol", symbol)) if value}


def _no_text(value: Any) -> Any:
    if isinstance(value, (str, bool)):
        raise InputError(f"must be a whole number, got {_short(value)}")
    return value


#: a whole number, also when written as 5.0, but not as text; the same where it may be left out
Whole: TypeAlias = Annotated[int, BeforeValidator(_no_text)]
MaybeWhole: TypeAlias = Annotated[int | None, BeforeValidator(_no_text)]
#: a number in a list of them, not as text
Number: TypeAlias = Annotated[float, Strict()]


def partial(cls: type[T], name: str) -> type[T]:
    """The same record with every field optional: what a document may say of a library entry."""
    fields: dict[str, Any] = {}
    for key, info in cls.model_fields.items():
        loose = FieldInfo.merge_field_infos(info, default=None, default_factory=None)
        fields[key] = (info.annotation | None if info.annotation else Any, loose)
    base = create_model(name, __base__=Reference, **fields)
    base.__doc__ = f"A {cls.__name__.lower()} by library id, inline, or inline on top of an id."
    return base  # type: ignore[return-value]


class Reference(Record):
    """Base of the partial records: remembers nothing but what was written."""

    def written(self) -> dict[str, Any]:
        """The fields that were given a value."""
        return {key: value for key, value in self if value is not None}


def nearest(key: str, known: Iterable[str]) -> str:
    """The known name closest to a mistyped one, or an empty string."""
    lowered = {name.lower(): name for name in known}
    found = difflib.get_close_matches(key.lower(), lowered, n=3, cutoff=0.5)
    swapped = [name for name in found if sorted(name) == sorted(key.lower())]  # two letters changed places
    return lowered[(swapped or found)[0]] if found else ""


def explain(error: ValidationError, cls: type[BaseModel]) -> InputError:
    """The first validation error as one sentence with the path of its field."""
    found = error.errors(include_url=False)
    # a mistyped key is also a missing one: the key that was written says more
    first = next((entry for entry in found if entry["type"] == "extra_forbidden"), found[0])
    loc = tuple(first["loc"])
    kind, context, given = first["type"], first.get("ctx", {}), first.get("input")
    path = _path(loc)
    if kind == "extra_forbidden":
        guess = nearest(str(loc[-1]), _fields_at(cls, loc[:-1]))
        hint = f"; the nearest known key is '{guess}'" if guess else ""
        return InputError(f"is not a key that belongs here{hint}", path)
    if kind == "missing":
        return InputError("is missing and must be given", path)
    if kind == "value_error":
        cause = context.get("error")
        if isinstance(cause, InputError):
            return cause.inside(path) if path else cause
        return InputError(str(cause), path)
    return InputError(_sentence(kind, context, given, first["msg"]), path)


_COMPARISONS = {
    "greater_than": ("gt", "must be above"),
    "greater_than_equal": ("ge", "must be at least"),
    "less_than": ("lt", "must be below"),
    "less_than_equal": ("le", "must be at most"),
}


def _sentence(kind: str, context: dict[str, Any], given: Any, fallback: str) -> str:
    if kind == "greater_than_equal" and context["ge"] == SMALLEST and given <= 0:
        return f"must be above 0, got {_short(given)}"
    if kind in _COMPARISONS:
        key, words = _COMPARISONS[kind]
        return f"{words} {context[key]:g}, got {_short(given)}"
    if kind == "finite_number":
        return "must be a finite number, got NaN or infinity"
    if kind in ("float_type", "float_parsing", "int_type", "int_parsing"):
        return f"must be a number, got {_short(given)}"
    if kind == "int_from_float":
        return f"must be a whole number, got {_short(given)}"
    if kind == "literal_error":
        guess = nearest(str(given), context["expected"].replace("'", "").replace(" or ", ", ").split(", "))
        hint = f" (did you mean '{guess}'?)" if guess else ""
        return f"must be one of {context['expected']}, got {_short(given)}{hint}"
    if kind == "string_type":
        return f"must be text, got {_short(given)}"
    if kind in ("model_type", "model_attributes_type", "dict_type"):
        return f"must be an object with named fields, got {_short(given)}"
    if kind in ("tuple_type", "list_type"):
        return f"must be a list, got {_short(given)}"
    if kind == "bool_type":
        return f"must be true or false, got {_short(given)}"
    if kind == "too_long":
        return f"must have at most {context['max_length']} entries, got {context['actual_length']}"
    return fallback[:1].lower() + fallback[1:] + f", got {_short(given)}"


def _short(given: Any) -> str:
    """What was given, however long it is."""
    return shortened(repr(given[:60]) if isinstance(given, str) else reprlib.repr(given))


#: longest key that an error repeats as it stands
_LONGEST_KEY = 60


def _path(loc: tuple[Any, ...]) -> str:
    out = ""
    for part in loc:
        if isinstance(part, int):
            out += f"[{part}]"
        else:
            # a key that nobody expected can hold anything
            name = part if part.isprintable() and len(part) <= _LONGEST_KEY else _short(part)
            out += f".{name}" if out else name
    return out


def _fields_at(cls: type[BaseModel], loc: tuple[Any, ...]) -> list[str]:
    """Names of the fields that the record at this place knows."""
    here: Any = cls
    for part in loc:
        if isinstance(part, int):
            continue
        field = getattr(here, "model_fields", {}).get(part)
        here = _record_in(field.annotation) if field else None
    return list(getattr(here, "model_fields", {}))


def _record_in(annotation: Any) -> Any:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    for inner in getattr(annotation, "__args__", ()):
        found = _record_in(inner)
        if found is not None:
            return found
    return None
