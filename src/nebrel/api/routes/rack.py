"""What a person keeps for routers beside pieces: the rack of bits, and how machines want their programs."""

from nebrel.api.messages.carving import KeptPostView, RackBitView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.rack import bit_in
from nebrel.piece.parts.carving import BitPart, PostPart
from nebrel.store.kept_parts import KeptPart

router = group("carving")


@router.get("/bits")
def list_bits(context: InContext) -> list[RackBitView]:
    """The bits of the rack."""
    return [_bit(kept) for kept in context.workshop.rack.all()]


@router.post("/bits", status_code=201)
def add_bit(context: InContext, bit: BitPart) -> RackBitView:
    """Put a further bit into the rack."""
    bit.to_core()
    return _bit(context.workshop.rack.add(bit.name, _facts(bit)))


@router.put("/bits/{bit_id}")
def change_bit(context: InContext, bit_id: int, bit: BitPart) -> RackBitView:
    """Change a bit of the rack; pieces keep the bit that they were planned with."""
    bit.to_core()
    return _bit(context.workshop.rack.change(bit_id, bit.name, _facts(bit)))


@router.delete("/bits/{bit_id}", status_code=204)
def drop_bit(context: InContext, bit_id: int) -> None:
    """Take a bit out of the rack."""
    context.workshop.rack.drop(bit_id)


@router.get("/posts")
def list_posts(context: InContext) -> list[KeptPostView]:
    """The ways in which machines want their programs."""
    return [_post(kept) for kept in context.workshop.posts.all()]


@router.post("/posts", status_code=201)
def add_post(context: InContext, post: PostPart) -> KeptPostView:
    """Keep a further way."""
    return _post(context.workshop.posts.add(post.name, _facts(post)))


@router.put("/posts/{post_id}")
def change_post(context: InContext, post_id: int, post: PostPart) -> KeptPostView:
    """Change a way; pieces keep the one that they were planned with."""
    return _post(context.workshop.posts.change(post_id, post.name, _facts(post)))


@router.delete("/posts/{post_id}", status_code=204)
def drop_post(context: InContext, post_id: int) -> None:
    """Take a way out of the table."""
    context.workshop.posts.drop(post_id)


def _facts(part: BitPart | PostPart) -> dict[str, object]:
    return part.model_dump(mode="json", exclude={"name"})


def _bit(kept: KeptPart) -> RackBitView:
    return RackBitView(id=kept.id, bit=bit_in(kept))


def _post(kept: KeptPart) -> KeptPostView:
    return KeptPostView(id=kept.id, post=PostPart.model_validate({"name": kept.name, **kept.facts}))
