"""Routes of pieces, their exports, and what the workshop offers; those of tones are in tones.py."""

import io
from dataclasses import asdict
from typing import TypeVar

from flask import Response, current_app, request, send_file
from slugify import slugify

from halvex.core.advice.evening import evening
from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering.own_typefaces import LARGEST_FILE_BYTES as LARGEST_FONT_BYTES
from halvex.core.lettering.svg import LARGEST_SVG_BYTES
from halvex.core.output.bundle import LARGEST_BUNDLE_BYTES, MEDIA_TYPE, SUFFIX, write_bundle
from halvex.core.output.flat import flat_svg
from halvex.core.output.pictures import MEDIA_TYPES, encode
from halvex.core.piece import Lettering, Piece, PieceError, json_schema, piece_from_values
from halvex.core.piece.paints import NamedPaint, colours_of, painted, references_in
from halvex.core.piece.part import Part
from halvex.core.piece.shares import lit_by_lamp, lit_by_surroundings
from halvex.core.scene.panorama import LARGEST_FILE_BYTES
from halvex.core.scene.picture import LARGEST_PICTURE_BYTES
from halvex.studio import own_typefaces, panoramas, pictures, store
from halvex.studio.assets import assets
from halvex.studio.coupons import coupon, surround_picture
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.effect_drawings import effect_drawing
from halvex.studio.exports import Exporter, ExportOrder, get_export
from halvex.studio.lighting import new_piece
from halvex.studio.pieces import pieces
from halvex.studio.specimens import build_ahead, fit, specimen
from halvex.web.operations import operation
from halvex.web.problems import problem
from halvex.web.shapes import (
    CouponOrder,
    EditRequest,
    Evening,
    ExportState,
    HistoryList,
    KeptTypefaces,
    KernEntry,
    NewPiece,
    Opening,
    PanoramaList,
    PictureEntry,
    PictureList,
    PieceEntry,
    PieceList,
    PieceState,
    SpecimenFit,
    SurroundOrder,
    Workshop,
)
from halvex.web.state import history_of, state_of, workshop

P = TypeVar("P", bound=Part)
# Widths of the small pictures in the list of pieces and in a history.
THUMBNAIL_PX, SETUP_PX, SMALL_PX = 320, 196, 128


def _exporter() -> Exporter:
    return current_app.extensions["exporter"]


@operation("GET", "/opening", "How far Halvex is on its way to its first draft", gives=Opening)
def get_opening() -> Opening:
    return Opening(share=1.0, seconds=0.0)


@operation("GET", "/workshop", "What the screen offers", gives=Workshop)
def get_workshop() -> Workshop:
    return workshop()


@operation("GET", "/schema", "The piece format as JSON Schema", media="application/schema+json")
def get_schema() -> Response:
    return Response(current_app.json.dumps(json_schema()), mimetype="application/schema+json")


@operation("GET", "/pieces", "All pieces, and those put aside", gives=PieceList)
def get_pieces() -> PieceList:
    def entries(deleted: bool) -> list[PieceEntry]:
        return [
            PieceEntry(id=r.id, name=r.name, updated=r.updated) for r in store.list_pieces(deleted=deleted)
        ]

    return PieceList(pieces=entries(False), deleted=entries(True))


@operation("POST", "/pieces", "Store a new piece", takes=NewPiece, gives=PieceState, status=201)
def post_piece(body: NewPiece) -> PieceState:
    piece = piece_from_values(body.document) if body.document is not None else new_piece()
    return state_of(pieces.create(piece))


@operation("GET", "/pieces/<ident>", "A piece as it stands", gives=PieceState)
def get_piece(ident: str) -> PieceState:
    return state_of(ident)


@operation("DELETE", "/pieces/<ident>", "Put a piece aside; it can be brought back", status=204)
def delete_piece(ident: str) -> None:
    pieces.delete(ident)


@operation("POST", "/pieces/<ident>/restore", "Bring a piece back", gives=PieceState)
def restore_piece(ident: str) -> PieceState:
    pieces.restore(ident)
    return state_of(ident)


@operation("POST", "/pieces/<ident>/duplicate", "Store a copy of a piece", gives=PieceState, status=201)
def duplicate_piece(ident: str) -> PieceState:
    return state_of(pieces.duplicate(ident))


@operation("POST", "/pieces/<ident>/edits", "Edit a piece", takes=EditRequest, gives=PieceState)
def post_edits(ident: str, body: EditRequest) -> PieceState:
    pieces.edit(ident, body.edits, body.gesture)
    return state_of(ident)


@operation("POST", "/pieces/<ident>/undo", "Step back in the history", gives=PieceState)
def post_undo(ident: str) -> PieceState:
    pieces.undo(ident)
    return state_of(ident)


@operation("POST", "/pieces/<ident>/redo", "Step forward in the history", gives=PieceState)
def post_redo(ident: str) -> PieceState:
    pieces.redo(ident)
    return state_of(ident)


@operation("GET", "/pieces/<ident>/history", "The states of a piece, the newest first", gives=HistoryList)
def get_history(ident: str) -> HistoryList:
    return history_of(ident)


@operation("POST", "/pieces/<ident>/history/<number>", "Go to any state of a piece", gives=PieceState)
def post_history(ident: str, number: str) -> PieceState:
    pieces.go_to(ident, _state_number(number))
    return state_of(ident)


@operation(
    "GET", "/pieces/<ident>/history/<number>/thumbnail", "A small draft of a state", media="image/webp"
)
def get_history_thumbnail(ident: str, number: str) -> Response:
    return _thumbnail(store.piece_of(store.revision_of(ident, _state_number(number))), SMALL_PX)


def _state_number(text: str) -> int:
    if not text.isascii() or not text.isdecimal() or len(text) > 15:
        raise store.StoreError(
            "revision", "a state is named by a whole number; take one that the history lists"
        )
    return int(text)


def _thumbnail(piece: Piece, width: int) -> Response:
    return Response(
        encode(render_piece(piece, DraftOrder(width=width), assets=assets()), "webp"), mimetype="image/webp"
    )


@operation(
    "GET", "/pieces/<ident>/setups/<name>", "A small draft of a piece in a lighting setup", media="image/webp"
)
def get_setup(ident: str, name: str) -> Response:
    piece = store.load_piece(ident)
    setup = Edit(op="setup", path="/light", value={"name": name})
    return _thumbnail(apply_edits(piece, [setup])[0], SETUP_PX)


@operation(
    "GET",
    "/pieces/<ident>/lamps/<lamp>/share",
    "A small draft of a piece lit by one of its lamps alone",
    media="image/webp",
)
def get_share_of_lamp(ident: str, lamp: str) -> Response:
    return _thumbnail(lit_by_lamp(store.load_piece(ident), lamp), SETUP_PX)


@operation(
    "GET",
    "/pieces/<ident>/surroundings/share",
    "A small draft of a piece lit by its surroundings alone",
    media="image/webp",
)
def get_share_of_surroundings(ident: str) -> Response:
    return _thumbnail(lit_by_surroundings(store.load_piece(ident)), SETUP_PX)


@operation(
    "GET",
    "/pieces/<ident>/finish/<number>",
    "What one of a piece's effects does: a small draft, before it at the left, after it at the right",
    media="image/webp",
)
def get_effect_drawing(ident: str, number: str) -> Response:
    picture = effect_drawing(store.load_piece(ident), number, SETUP_PX)
    return Response(encode(picture, "webp"), mimetype="image/webp")


def _in_colours(part: P, paints: tuple[NamedPaint, ...]) -> P:
    """A part of a document in plain colours. Raises PieceError where it refers to a paint that is not
    there."""
    for path, ident in references_in(part):
        if ident not in colours_of(paints):
            raise PieceError(path, f"there is no paint “{ident}” in this piece; take one of its own")
    return painted(part, colours_of(paints))


@operation(
    "POST",
    "/pieces/<ident>/coupon",
    "A sample of a material under the piece's own lamps",
    takes=CouponOrder,
    media="image/webp",
)
def post_coupon(ident: str, body: CouponOrder) -> Response:
    piece = store.load_piece(ident)
    picture = coupon(piece.in_colours.light, _in_colours(body.material, piece.paints))
    return Response(encode(picture, "webp"), mimetype="image/webp")


@operation(
    "POST",
    "/surround",
    "A small picture of surroundings, all directions unrolled",
    takes=SurroundOrder,
    media="image/webp",
)
def post_surround(body: SurroundOrder) -> Response:
    surround = _in_colours(body.surround, body.paints)
    return Response(encode(surround_picture(surround), "webp"), mimetype="image/webp")


@operation("GET", "/panoramas", "Names of the panoramas there are", gives=PanoramaList)
def get_panoramas() -> PanoramaList:
    return PanoramaList(names=sorted(assets().panoramas))


@operation(
    "POST",
    "/panoramas/<name>",
    "Keep a panorama: a Radiance HDR or OpenEXR file",
    takes_media="application/octet-stream",
    gives=PanoramaList,
    status=201,
)
def post_panorama(name: str) -> PanoramaList:
    request.max_content_length = LARGEST_FILE_BYTES
    panoramas.keep(name, request.get_data())
    return PanoramaList(names=sorted(assets().panoramas))


@operation("GET", "/pictures", "The pictures there are, one's own first", gives=PictureList)
def get_pictures() -> PictureList:
    return PictureList(pictures=[PictureEntry(id=kept.id, name=kept.name) for kept in pictures.kept()])


@operation(
    "POST",
    "/pictures",
    "Keep a picture: PNG, JPEG, WebP, TIFF or OpenEXR",
    takes_media="application/octet-stream",
    query=("name",),
    gives=PictureEntry,
    status=201,
)
def post_picture() -> PictureEntry:
    request.max_content_length = LARGEST_PICTURE_BYTES
    kept = pictures.keep(request.args.get("name", "picture"), request.get_data())
    return PictureEntry(id=kept, name=pictures.name_of(kept))


@operation("GET", "/pictures/<picture>/small", "A picture, small", media="image/webp")
def get_small_picture(picture: str) -> Response:
    return Response(encode(pictures.small(picture), "webp"), mimetype="image/webp")


@operation(
    "POST",
    "/typefaces",
    "Keep the fonts of a file: TrueType, OpenType, WOFF, WOFF2 or a collection",
    takes_media="application/octet-stream",
    gives=KeptTypefaces,
    status=201,
)
def post_typeface() -> KeptTypefaces:
    request.max_content_length = LARGEST_FONT_BYTES
    kept = own_typefaces.keep(request.get_data())
    workshop.cache_clear()
    return KeptTypefaces(ids=kept, typefaces=workshop().typefaces)


@operation("GET", "/pieces/<ident>/bundle", "A piece and its pictures as one file", media=MEDIA_TYPE)
def get_bundle(ident: str) -> Response:
    piece = store.load_piece(ident)
    file = io.BytesIO(write_bundle(piece, assets()))
    name = f"{slugify(piece.name) or 'piece'}{SUFFIX}"
    return send_file(file, mimetype=MEDIA_TYPE, as_attachment=True, download_name=name)


@operation(
    "POST",
    "/bundles",
    "Open a piece that was saved as one file",
    takes_media="application/octet-stream",
    gives=PieceState,
    status=201,
)
def post_bundle() -> PieceState:
    request.max_content_length = LARGEST_BUNDLE_BYTES
    return state_of(pieces.open_bundle(request.get_data()))


@operation(
    "POST",
    "/pieces/<ident>/marks",
    "Bring an SVG drawing into a piece as a mark",
    takes_media="image/svg+xml",
    query=("name",),
    gives=PieceState,
    status=201,
)
def post_mark(ident: str) -> PieceState:
    request.max_content_length = LARGEST_SVG_BYTES
    pieces.bring_mark(ident, request.get_data(), request.args.get("name", "mark"))
    return state_of(ident)


def _lettering(ident: str, block: str) -> tuple[Piece, int, Lettering]:
    piece = store.load_piece(ident)
    for number, entry in enumerate(piece.blocks):
        if entry.id == block and isinstance(entry, Lettering):
            return piece, number, entry
    raise PieceError("/blocks", f"there is no lettering “{block}” in this piece; take one of its own")


@operation(
    "GET",
    "/pieces/<ident>/blocks/<block>/evening",
    "Kerning that evens the spaces of a lettering",
    gives=Evening,
)
def get_evening(ident: str, block: str) -> Evening:
    _, number, lettering = _lettering(ident, block)
    kerns = evening(lettering, assets())
    edits = [
        Edit(op="replace", path=f"/blocks/{number}/letters/{kern.letter}/kern", value=kern.proposed)
        for kern in kerns
    ]
    return Evening(kerns=[KernEntry(**asdict(kern)) for kern in kerns], edits=edits)


@operation(
    "GET",
    "/pieces/<ident>/blocks/<block>/specimens/<typeface>",
    "A lettering's words in another typeface, quickly drawn",
    media="image/webp",
)
def get_specimen(ident: str, block: str, typeface: str) -> Response:
    piece, _, lettering = _lettering(ident, block)
    picture = specimen(piece, lettering, typeface)
    build_ahead(piece, lettering, typeface)
    return Response(encode(picture, "webp"), mimetype="image/webp")


@operation(
    "GET",
    "/pieces/<ident>/blocks/<block>/fits/<typeface>",
    "Whether a lettering's form suits another typeface",
    gives=SpecimenFit,
)
def get_fit(ident: str, block: str, typeface: str) -> SpecimenFit:
    _, _, lettering = _lettering(ident, block)
    return SpecimenFit(**asdict(fit(lettering, typeface)))


@operation("GET", "/pieces/<ident>/outlines", "The flat outlines of a piece as SVG", media="image/svg+xml")
def get_outlines(ident: str) -> Response:
    piece = store.load_piece(ident)
    file = io.BytesIO(flat_svg(piece, assets()))
    return send_file(
        file, mimetype="image/svg+xml", as_attachment=True, download_name=f"{_file_name(piece.name)}.svg"
    )


@operation("GET", "/pieces/<ident>/thumbnail", "A small draft of a piece", media="image/webp")
def get_thumbnail(ident: str) -> Response:
    return _thumbnail(store.load_piece(ident), THUMBNAIL_PX)


@operation(
    "POST",
    "/pieces/<ident>/exports",
    "Ask for a picture file",
    takes=ExportOrder,
    gives=ExportState,
    status=202,
)
def post_export(ident: str, body: ExportOrder) -> ExportState:
    return _export_state(_exporter().ask(ident, body))


@operation("GET", "/exports/<ident>", "How far an export is", gives=ExportState)
def get_export_state(ident: str) -> ExportState:
    return _export_state(get_export(ident))


@operation("DELETE", "/exports/<ident>", "Cancel an export", gives=ExportState)
def delete_export(ident: str) -> ExportState:
    get_export(ident)
    _exporter().cancel(ident)
    return _export_state(get_export(ident))


@operation("GET", "/exports/<ident>/file", "The finished file", media="application/octet-stream")
def get_export_file(ident: str) -> Response:
    record = get_export(ident)
    if record.status != "done":
        return problem(409, "Not ready", f"the export is {record.status}; wait until it is done", "status")
    kind = record.path.rsplit(".", 1)[1]
    return send_file(
        record.path,
        mimetype=MEDIA_TYPES[kind],
        as_attachment=True,
        download_name=f"{_file_name(record.piece.name)}.{kind}",
    )


def _file_name(name: str) -> str:
    return slugify(name, allow_unicode=True, lowercase=False, separator=" ") or "piece"


def _export_state(record: store.ExportRecord) -> ExportState:
    order = ExportOrder.model_validate_json(record.order)
    return ExportState(
        id=record.id, status=record.status, share=record.share, message=record.message, format=order.format
    )
