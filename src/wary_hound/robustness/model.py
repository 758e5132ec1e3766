"""The change model: how often facts of each kind change between releases, and how big releases are.

A release has a size drawn from a mixture (fix, feature, redesign), which multiplies all hazards of that release: that is
what makes locators fail together. A fact of kind g lasts through a release of size m with probability exp(-m * h_g), so
with the sizes' shares w a locator with summed hazard H lasts n releases with probability (sum_s w_s exp(-m_s H))^n: a
proportional hazards model with discrete frailty (Cox 1972; Hougaard 2000). The facts of one component share a second such
factor: a rewrite of the component, which the rest of the page does not meet. Applications differ in pace, which multiplies the
sizes of all their releases (a log-normal frailty, in PACES steps): what has lasted in one is likelier to last again.

Releases are one process; use is another: other data, another state, another width, another language, the next day. Its hazards
are learnt apart, from variants of one version. `in_use` weighs one change of use beside a number of releases.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field, FiniteFloat, NonNegativeInt, ValidationError, model_validator
from scipy.special import expit, logit, ndtri

from wary_hound.errors import FileError
from wary_hound.robustness.dependency import SEEN, Dependency, base_of
from wary_hound.robustness.looks import MADE_UP, PASSED_ON, SHIFTING

FORMAT = 2
TABLES = ("lost", "stolen", "ambiguous")
Floats = npt.NDArray[np.float64]
Curve = tuple[float, float]
"""Intercept and slope of a logistic curve, in logits, from what was said to what comes true."""
UNCALIBRATED: Curve = (0.0, 1.0)
AS_SHIPPED: tuple[Curve, Curve] = (UNCALIBRATED, UNCALIBRATED)
AS_SIMULATED = AS_SHIPPED
PACES = 5
"""In so many steps the paces of applications are told."""
MOST_KEPT = 50_000
"""So many survivals a model keeps that have been asked for."""
REWRITTEN = 0.1
"""Share of releases in which a component meets a rewrite of its own; how hard it is follows from `together`."""


ASSUMED_DATA = 0.8
"""Hazard of words that are there to change (a status, an output, a counter), where histories say nothing of them."""


SPOKEN = {"text": 0.6, "content": 0.6}
SPOKEN |= dict.fromkeys(("accessible-name", "aria-label", "label", "title", "placeholder", "alt"), 0.9)
"""Of what breaks words in other uses, the share that another language does: counted on labelled elements of twelve applications in
other data, states, widths and languages. The rest are mostly words that the page shows as data."""


@dataclass(frozen=True, slots=True)
class Rate:
    """Hazard of one kind of fact in a release of size 1, with the standard deviation of its logarithm."""

    hazard: float
    spread: float
    observed: int = 0
    """How many observations (locator on a pair of versions) it rests on."""


@dataclass(frozen=True, slots=True)
class Size:
    """A size of release: its share of all releases, and what it multiplies hazards by."""

    name: str
    share: float
    multiplier: float


@dataclass(frozen=True, eq=False)
class ChangeModel:
    """Rates by kind of fact (`id/named`, `class/utility`, `child`, ...) for being lost, and by the key of a locator (the
    most telling fact it rests on) for being stolen or made ambiguous by look-alikes."""

    sizes: tuple[Size, ...]
    lost: dict[str, Rate]
    stolen: dict[str, Rate]
    ambiguous: dict[str, Rate]
    version: str = ""
    source: str = ""
    together: float = 0.0
    """The variance of the shock that the facts of one component share in a release (its mean is 1)."""
    pace: float = 0.0
    """How applications differ in how fast they change: the standard deviation of the logarithm of what multiplies the sizes of all
    releases of one."""
    calibration: tuple[float, float] = UNCALIBRATED
    """Intercept and slope, in logits, by which a simulated survival is what came true on applications left out (Platt 1999)."""
    failing: tuple[Curve, Curve] = AS_SIMULATED
    """The same of the shares that are stolen and ambiguous; what is left of those that are not alive is lost."""
    use: dict[str, dict[str, Rate]] = field(default_factory=dict)
    """Tables of the same names for one change of use: other data, another state, another width or language."""
    judging: tuple[Curve, Curve] = AS_SHIPPED
    """From the confidence of relocation to what it comes to on a team's own pages: with the old page at hand, and from memory."""

    spoken: dict[str, float] = field(default_factory=dict)
    """What of the hazard of being lost, by group, is another language of the page: all its words go at once."""

    def in_use(self, releases: int = 1) -> ChangeModel:
        """The model in which one change of use comes within a number of releases, evenly spread over them: hazards are summed,
        since both must spare a fact."""
        return _in_use(self, releases) if self.use else self

    @cached_property
    def digest(self) -> str:
        """What tells this model from any other."""
        said = repr(
            (self.sizes, *(sorted(table.items()) for table in (self.lost, self.stolen, self.ambiguous)), self.together, self.pace)
        )
        said += repr((self.calibration, self.failing))
        said += repr(sorted(self.spoken.items())) if self.spoken else ""
        said += repr(self.judging) if self.judging != AS_SHIPPED else ""
        said += repr([(name, sorted(table.items())) for name, table in sorted(self.use.items())])
        return hashlib.blake2b(said.encode(), digest_size=16).hexdigest()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, ChangeModel) and self.digest == other.digest

    def __hash__(self) -> int:
        return hash(self.digest)

    @cached_property
    def shocks(self) -> tuple[Size, ...]:
        """What a component may meet in a release, beside the release's own size: mostly little, seldom a rewrite."""
        if not self.together:
            return (Size("as the page", 1.0, 1.0),)
        rewrite = 1 + float(np.sqrt(self.together * (1 - REWRITTEN) / REWRITTEN))
        return (
            Size("left alone", 1 - REWRITTEN, max(0.0, (1 - REWRITTEN * rewrite) / (1 - REWRITTEN))),
            Size("rewritten", REWRITTEN, min(rewrite, 1 / REWRITTEN)),
        )

    def rate(self, table: dict[str, Rate], group: str) -> Rate:
        """The rate of a group; of its kind, or of any fact, where the group itself is not known. Columns last as rows do, until
        histories say otherwise."""
        kept = self._rates.get((id(table), group))
        if kept is None or kept[0] is not table:
            kept = self._rates[id(table), group] = table, _rate(table, group)
        return kept[1]

    @cached_property
    def _rates(self) -> dict[tuple[int, str], tuple[dict[str, Rate], Rate]]:
        """What has been asked for, with the table that it was found in."""
        return {}

    def language(self, group: str) -> float:
        """What of the hazard of a group is another language of the page."""
        known = self.spoken.get(group)
        return self.spoken.get(group.partition("/")[0], 0.0) if known is None and _spoken(group) else known or 0.0

    def hazard(self, groups: Iterable[str]) -> float:
        """The summed hazard of being lost, of facts of these groups."""
        return math.fsum(self.rate(self.lost, group).hazard for group in groups)

    @cached_property
    def paces(self) -> tuple[float, ...]:
        """What multiplies the sizes of releases of an application, alike likely each; their mean is 1."""
        if not self.pace:
            return (1.0,)
        steps = np.exp(self.pace * ndtri((np.arange(PACES) + 0.5) / PACES))
        return tuple((steps / steps.mean()).tolist())

    def lasting(self, hazard: Floats | float, releases: int) -> Floats | np.float64:
        """Probability that nothing of a summed hazard happens in a number of releases of some application: the closed form."""
        paces = self.paces
        if isinstance(hazard, float):
            return np.float64(self._lasting(hazard, releases))
        summed = np.asarray(hazard, np.float64)
        return np.asarray(sum(self.lasting_at(summed * pace, releases) for pace in paces) / len(paces))

    def lasting_each(self, hazards: Floats, releases: int) -> Floats:
        """The same of each of several summed hazards after 1, 2, ... releases; shape (hazards, releases)."""
        each = self.lasting_at(np.multiply.outer(hazards, self.paces), 1)
        lasting: Floats = np.power.outer(each, np.arange(1, releases + 1)).mean(axis=1)
        return lasting

    def _lasting(self, hazard: float, releases: int) -> float:
        kept, key = self._lasted, (hazard, releases)
        if key not in kept:
            if len(kept) > MOST_KEPT:
                kept.clear()
            kept[key] = math.fsum(self._each(hazard * pace) ** releases for pace in self.paces) / len(self.paces)
        return kept[key]

    @cached_property
    def _lasted(self) -> dict[tuple[float, int], float]:
        """What has been asked for: a search asks for the same sums again and again."""
        return {}

    def calibrated(self, survival: Floats) -> Floats:
        """What simulated survivals come to by experience. What is sure stays so."""
        return _by_curve(self.calibration, survival)

    def calibrated_one(self, survival: float) -> float:
        """The same of one survival."""
        if not 0 < survival < 1 or self.calibration == UNCALIBRATED:
            return survival
        intercept, slope = self.calibration
        inside = min(max(survival, 1e-6), 1 - 1e-6)
        return 1 / (1 + math.exp(-intercept - slope * math.log(inside / (1 - inside))))

    def thefts_calibrated(self, stolen: Floats) -> Floats:
        """What simulated shares of thefts come to by experience."""
        return _by_curve(self.failing[0], stolen)

    def failures_calibrated(self, alive: Floats, stolen: Floats, ambiguous: Floats) -> tuple[Floats, Floats, Floats]:
        """How what does not survive fails by experience: the shares lost, stolen and ambiguous, from a survival that is calibrated
        and shares as simulated."""
        dead = 1 - alive
        shares = np.stack([self.thefts_calibrated(stolen), _by_curve(self.failing[1], ambiguous)])
        shares *= np.minimum(1, dead / np.maximum(shares.sum(axis=0), 1e-12))
        return np.maximum(dead - shares.sum(axis=0), 0), shares[0], shares[1]

    def lasting_at(self, hazard: Floats, releases: int) -> Floats:
        """The same for an application of pace 1."""
        shares, multipliers = self._mixture
        each: Floats = np.exp(-np.multiply.outer(hazard, multipliers)) @ shares
        return each**releases

    def _each(self, hazard: float) -> float:
        exp = math.exp
        total = 0.0
        for share, multiplier in self._pairs:
            total += share * exp(-multiplier * hazard)
        return total

    @cached_property
    def _mixture(self) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Share and multiplier of each pair of a release's size and a component's shock."""
        pairs = [(s.share * c.share, s.multiplier * c.multiplier) for s in self.sizes for c in self.shocks]
        return np.asarray([p[0] for p in pairs]), np.asarray([p[1] for p in pairs])

    @cached_property
    def _pairs(self) -> list[tuple[float, float]]:
        return list(zip(self._mixture[0].tolist(), self._mixture[1].tolist(), strict=True))

    @cached_property
    def multipliers(self) -> npt.NDArray[np.float64]:
        """What each size of release multiplies hazards by."""
        return np.asarray([s.multiplier for s in self.sizes])

    @cached_property
    def shares(self) -> npt.NDArray[np.float64]:
        """The share of each size of release."""
        return np.asarray([s.share for s in self.sizes])

    @staticmethod
    def read(path: Path) -> ChangeModel:
        """A model from its JSON file. FileError says what is wrong with it."""
        from wary_hound.files import read_text

        return _from_text(read_text(path, "change model"), str(path))

    @staticmethod
    def shipped() -> ChangeModel:
        """The rates that ship with the package (`rates.json`, which says where they come from)."""
        return _shipped()

    def to_json(self) -> dict[str, Any]:
        """As a file of rates holds it."""

        def table(rates: dict[str, Rate]) -> dict[str, list[float]]:
            return {k: [round(r.hazard, 5), round(r.spread, 3), r.observed] for k, r in sorted(rates.items())}

        return {
            "format": FORMAT,
            "version": self.version,
            "source": self.source,
            "together": round(self.together, 4),
            "pace": round(self.pace, 4),
            "calibration": [round(value, 4) for value in self.calibration],
            "failing": [[round(value, 4) for value in curve] for curve in self.failing],
            "judging": [[round(value, 4) for value in curve] for curve in self.judging],
            "sizes": [[s.name, round(s.share, 4), round(s.multiplier, 4)] for s in self.sizes],
            "lost": table(self.lost),
            "stolen": table(self.stolen),
            "ambiguous": table(self.ambiguous),
            "use": {name: table(rates) for name, rates in self.use.items()},
        }


def _by_curve(curve: Curve, share: Floats) -> Floats:
    """Shares by an intercept and a slope, in logits; what is sure stays so."""
    if curve == UNCALIBRATED:
        return share
    intercept, slope = curve
    inside = np.minimum(np.maximum(share, 1e-6), 1 - 1e-6)
    return np.where((share <= 0) | (share >= 1), share, expit(intercept + slope * logit(inside)))


@lru_cache(maxsize=64)
def _in_use(model: ChangeModel, releases: int) -> ChangeModel:
    def summed(table: dict[str, Rate], use: dict[str, Rate]) -> dict[str, Rate]:
        sums = {}
        for group in {*table, *use}:
            one, other = model.rate(table, group), model.rate(use, group)
            total = one.hazard + other.hazard / releases
            # of two independent doubts about a sum, each weighs by its share
            spread = math.hypot(one.hazard * one.spread, other.hazard / releases * other.spread) / max(total, 1e-12)
            sums[group] = Rate(total, max(spread, 0.05), one.observed + other.observed)
        return sums

    lost, stolen, ambiguous = (summed(getattr(model, name), model.use.get(name, {})) for name in TABLES)
    used = model.use.get("lost", {})
    spoken = {group: share * model.rate(used, group).hazard / releases for group in lost if (share := _spoken(group))}
    return replace(model, lost=lost, stolen=stolen, ambiguous=ambiguous, use={}, spoken=spoken)


def _spoken(group: str) -> float:
    kind, _, look = group.partition("/")
    return SPOKEN.get(base_of(kind), 0.0) if look in ("", "words", "long") else 0.0


_Share = Annotated[FiniteFloat, Field(ge=0, le=1)]
_Hazard = Annotated[FiniteFloat, Field(ge=0, le=1_000)]
_Curve = tuple[Annotated[FiniteFloat, Field(ge=-5, le=5)], Annotated[FiniteFloat, Field(gt=0, le=5)]]
_Rates = dict[str, tuple[_Hazard, Annotated[FiniteFloat, Field(gt=0, le=100)], NonNegativeInt]]


class _Stored(BaseModel):
    """A file of rates."""

    format: Literal[2]
    version: str
    source: str
    together: Annotated[FiniteFloat, Field(ge=0, le=1_000)]
    pace: Annotated[FiniteFloat, Field(ge=0, le=3)] = 0.0
    calibration: _Curve = UNCALIBRATED
    failing: tuple[_Curve, _Curve] = AS_SIMULATED
    judging: tuple[_Curve, _Curve] = AS_SHIPPED
    sizes: Annotated[list[tuple[str, _Share, _Hazard]], Field(min_length=1, max_length=100)]
    lost: _Rates
    stolen: _Rates
    ambiguous: _Rates
    use: dict[Literal["lost", "stolen", "ambiguous"], _Rates] = {}

    @model_validator(mode="after")
    def _whole(self) -> _Stored:
        if not 0.9 <= sum(share for _, share, _ in self.sizes) <= 1.1:
            raise ValueError("the shares of the sizes of releases must come to 1")
        return self


def _from_text(text: str, where: str) -> ChangeModel:
    try:
        data = json.loads(text)
        if isinstance(data, dict) and data.get("format") != FORMAT:
            raise FileError(f"{where}: no change model; it is of format {str(data.get('format'))[:40]}, not {FORMAT}")

        stored = _Stored.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part)[:40] for part in first["loc"]) or "the top"
        raise FileError(f"{where}: no change model (at {place}: {first['msg']})") from None
    except (ValueError, RecursionError) as error:
        raise FileError(f"{where}: no change model ({type(error).__name__}: {str(error)[:80]})") from None

    def table(rates: _Rates) -> dict[str, Rate]:
        return {group: Rate(*rate) for group, rate in rates.items()}

    sizes = tuple(Size(*size) for size in stored.sizes)
    tables = table(stored.lost), table(stored.stolen), table(stored.ambiguous)
    use = {str(name): table(rates) for name, rates in stored.use.items()}
    return ChangeModel(
        sizes,
        *tables,
        stored.version,
        stored.source,
        stored.together,
        stored.pace,
        stored.calibration,
        stored.failing,
        use,
        stored.judging,
    )


@lru_cache(maxsize=1)
def _shipped() -> ChangeModel:
    path = resources.files("wary_hound.robustness") / "rates.json"
    return _from_text(path.read_text(encoding="utf-8"), "rates.json")


_TELLING = (
    "id test-attribute label accessible-name name aria-label placeholder content text for data alt title href label~ "
    "accessible-name~ content~ text~ value src reference attribute aria id$ name$ for$ data$ id~ href~ name~ for~ data~ "
    "class class~ type role state-attribute having tag sibling adjacent place ordinal child descendant"
).split()
_TELLING_ORDER = {kind: at for at, kind in enumerate(_TELLING)}
_COUNTED = frozenset({"id", "name", "for", "data", "reference", "attribute"})
"""Kinds whose values, where they are counted (`#tab-3`), are the neighbour's when the element has gone."""
_POSITIONAL = frozenset({"ordinal", "place"})
RELATIONS = frozenset({"row-of", "column-of", "group-of", "after", "before", "geometry"})


def _says_which(kind: str) -> bool:
    """Whether a kind of fact says which element is meant, rather than of what kind it is."""
    return _TELLING_ORDER.get(kind, 99) < _TELLING_ORDER["class"]


_AS_WHOLE = frozenset({"class~", "id$", "name$", "for$", "data$"})
"""Parts of names of which hardly anything is known: what a person wrote of them lasts as if it were all."""


def _rate(table: dict[str, Rate], group: str) -> Rate:
    if group.startswith("column-of") and group not in table:
        group = group.replace("column-of", "row-of", 1)
    rate = table.get(group)
    kind, _, look = group.partition("/")
    if rate is None and look in ("data", "counting") and kind not in RELATIONS | {"guarded"}:  # there it is the kind of a fact
        return Rate(ASSUMED_DATA, 0.5)
    if rate is None and look == "counted":
        rate = table.get("id/counted")
    if rate is None and kind == "test-attribute" and look in MADE_UP:
        rate = table.get(f"id/{look}")  # no person called it that
    if rate is None:
        rate = table.get(kind)
    if rate is None and kind in _AS_WHOLE:
        whole = base_of(kind)
        rate = table.get(f"{whole}/{look}" if look else whole) or table.get(whole)
    return rate or table.get("other") or Rate(0.1, 1.0)


def tier_of(key: str) -> str:
    """What keys have in common that tell an element apart in the same way: by a position, what is beside it, what says which one is
    meant or of what kind it is, counted or guarded, or in a row, whichever that is."""
    kind, _, rest = key.partition("/")
    if kind in RELATIONS:
        return "relation"
    if rest == "counted":
        return rest
    if kind in ("guarded", ALIKE, COUNTED_ALIKE):
        return kind
    if kind in _POSITIONAL:
        return "position"
    return "telling" if _says_which(kind) else "kind"


ALIKE, COUNTED_ALIKE = "alike", "alike-counted"
"""What tells one of what all rows have, but not in which row: a class of it; and which row by its number, which the next one has
when rows come or go."""
_UNTOLD = MADE_UP | SHIFTING | {"empty"}
ANCHORED = "id/counted"
_NAMES = frozenset({"id", "name", "for", "reference"})
"""What an element around is told by, where that is counted; the key of a thing (`data-id="88"`) is its own."""


def key_of(dependencies: Iterable[Dependency], element: int) -> str:
    """What a locator tells its element apart by; look-alikes come at the rate of this key.

    A position counts before all else, guarded where a telling fact of the element itself must hold as well; then a relation,
    then the most telling fact; counted where that is, or where only what stands around it tells, and is (`#tab-3 button`, as
    `#tab-3`). Of what stands in a row of a table (`ALIKE`), where nothing says in which: the like of it stands in other rows.
    """
    best: Dependency | None = None
    first = (0, "")
    relation = position = ""
    around = False
    row, told = -1, set[int]()
    for dependency in dependencies:
        kind = dependency.kind
        if dependency.row >= 0:
            if dependency.element == element:
                row = dependency.row
            if _tells_its_row(dependency):
                told.add(dependency.row)
        if kind in _POSITIONAL:
            position = min(position or kind, kind)  # whatever their order: they may be a set
        elif kind in RELATIONS:
            relation = min(relation or kind, kind)
        elif dependency.element == element:
            order = (_TELLING_ORDER.get(kind, 99), kind)
            if best is None or order < first:
                best, first = dependency, order
        elif kind in _NAMES and dependency.look in PASSED_ON:
            around = True
    key = best.kind if best else "other"
    counted = best is not None and key in _COUNTED and best.look in PASSED_ON
    steady = _says_which(key)
    if around and not position and (not steady or base_of(key) in _NAMES - {key}):
        return ANCHORED  # which of its kind it is, only what is counted says, and no less surely than if it were its own
    key += "/counted" if counted else ""
    if position:
        key = f"guarded/{key}" if steady else position
    elif relation:
        return f"{relation}/{key}"
    if row < 0 or row in told:
        return key
    return f"{COUNTED_ALIKE if position or counted else ALIKE}/{key}"


def _tells_its_row(dependency: Dependency) -> bool:
    """Whether a fact of an element in a row of a table says which row that is; a number in an attribute may (`data-code="400"`)."""
    read = dependency.base in SEEN | {"label"} and dependency.look == "number"
    return not (dependency.remark or read or dependency.look in _UNTOLD) and _says_which(dependency.kind)
