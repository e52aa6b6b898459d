"""What a station is: one object from which the line, the API and the survey of a source take everything they need."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from plindro.core.destinations import Destination
from plindro.core.files.sidefiles import SideFiles
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.scene import Scene
from plindro.core.settings import StationFacts, StationSettings
from plindro.core.textures.kept import TextureCache

S = TypeVar("S", bound=StationSettings)
F = TypeVar("F", bound=StationFacts)


@dataclass(frozen=True, slots=True)
class Context:
    """What stations may ask for beside the prop.

    ``scene`` is the source as it was read; ``side_files`` lie beside it; ``beside`` is another prop of the same source
    whose pivot this one shares; ``textures`` keeps what was made of images; ``tries_codecs``: whether somebody wants to
    see what each codec would give.
    """

    scene: Scene
    destination: Destination
    side_files: SideFiles | None = None
    beside: Prop | None = None
    textures: TextureCache | None = None
    tries_codecs: bool = True


Run = Callable[[Prop, S, Report, Context], Prop]


@dataclass(frozen=True, slots=True)
class LaterStep(Generic[S]):
    """A quick step of a station that waits for others: until the one named ``after`` has run, or for the line's end.

    It is never cached and may state the station's facts anew.
    """

    run: Run[S]
    after: str | None = None


def alone(run: Callable[[Prop, S, Report], Prop]) -> Run[S]:
    """The run of a station that asks for nothing beside the prop."""

    def run_alone(prop: Prop, settings: S, report: Report, context: Context) -> Prop:
        return run(prop, settings, report)

    return run_alone


def all_settings(settings: StationSettings, context: Context) -> str:
    """The inputs of a station that depends on nothing but the prop and all of its settings."""
    return settings.model_dump_json()


@dataclass(frozen=True, slots=True)
class Station(Generic[S, F]):
    """One step of the line.

    Attributes
    ----------
    name, title : the name in settings and findings, and the one people read
    settings, facts : classes of what it is told and of what it tells
    version : raised whenever the same input gives another result, so that kept results of before are not used
    share : how much of the whole work it is, against the other stations
    run : takes the prop one step on; raises ``Cancelled``
    inputs : everything besides the prop that the result of ``run`` depends on
    later : steps of it that wait for other stations
    always_runs : also on a prop that a finding holds back
    is_surveyed : it is part of what is said about a source as it came
    """

    name: str
    title: str
    settings: type[S]
    facts: type[F]
    version: int
    share: float
    run: Run[S]
    inputs: Callable[[S, Context], str] = all_settings
    later: tuple[LaterStep[S], ...] = ()
    always_runs: bool = False
    is_surveyed: bool = False
