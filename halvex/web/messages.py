"""Messages of the live socket, as models: the front end's types come from these.

From a window: `WindowMessage`. To a window: `PieceState` (shapes.py), `Refusal`, `NoPicture`,
`Stored`, and frames as binary messages: four bytes of header length (big endian), a `FrameHeader`
as JSON, the image.
"""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from halvex.core.piece.model import LONGEST_CANVAS_SIDE_PX
from halvex.studio.edits import Edit
from halvex.studio.frames import LARGEST_STAGE_PX
from halvex.studio.store import LONGEST_WINDOW_ID
from halvex.web.problems import Problem

# How many times as large as it fits the stage shows the canvas, at most.
CLOSEST = 64


class WindowMessage(BaseModel):
    """One message from a window.

    `seq` numbers its messages; `window`, which a window gives itself as it opens a piece, tells the server
    which messages it has carried out already: what a window has no answer to it sends again when its
    connection was lost. `piece` names the piece that is opened, or that a change is of where it is no longer
    open. `width` and `height` are those of the stage, which shows a part of the canvas 1 / `zoom` as wide and
    high, whose upper left is at (`left`, `top`) of the canvas; `bare` shows it without the piece's effects.
    """

    model_config = ConfigDict(extra="forbid")

    type: Literal["open", "edit", "undo", "redo", "size", "rest"]
    seq: int = Field(0, ge=0, le=2**53)
    window: str = Field("", max_length=LONGEST_WINDOW_ID, pattern="^[a-z0-9]*$")
    piece: str = Field("", max_length=32)
    width: int = Field(960, ge=16, le=LARGEST_STAGE_PX)
    height: int = Field(540, ge=16, le=LARGEST_STAGE_PX)
    zoom: float = Field(1, ge=1, le=CLOSEST)
    left: float = Field(0, ge=0, le=LONGEST_CANVAS_SIDE_PX)
    top: float = Field(0, ge=0, le=LONGEST_CANVAS_SIDE_PX)
    bare: bool = False
    edits: list[Edit] = Field(default_factory=list, max_length=200)
    gesture: str | None = Field(None, max_length=60)
    moving: bool = False


class Refusal(BaseModel):
    """Why the message `seq` was refused."""

    type: Literal["error"] = "error"
    seq: int
    problem: Problem


class NoPicture(BaseModel):
    """Why there is no picture of a revision."""

    type: Literal["problem"] = "problem"
    seq: int
    revision: int
    detail: str


class Stored(BaseModel):
    """The message `seq` was carried out on a piece that the window no longer shows."""

    type: Literal["stored"] = "stored"
    seq: int


class Preparing(BaseModel):
    """The piece stays a draft until the renderer is compiled, of which so much is done; a share."""

    type: Literal["preparing"] = "preparing"
    share: float


class Outlook(BaseModel):
    """The picture of a revision will be final in about so many seconds."""

    type: Literal["outlook"] = "outlook"
    revision: int
    seconds: float


class FrameHeader(BaseModel):
    """What goes with a frame."""

    type: Literal["frame"] = "frame"
    seq: int
    piece: str
    revision: int
    zoom: float
    left: float
    top: float
    stage: Literal["draft", "pass", "clean"]
    samples: float
    width: int
    height: int
    ms: int
    media: Literal["image/png", "image/jpeg"]


SOCKET_MODELS = (WindowMessage, Refusal, NoPicture, Stored, Preparing, Outlook, FrameHeader)
