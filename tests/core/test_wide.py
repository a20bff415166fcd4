"""Wide views: the base view in closed form, wishes against a dense solve, no fold, one map."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.interpolate import BSpline

from sequor.core.camera import Attitude, Intrinsics, corrected_camera
from sequor.core.distortion.fisheye import Fisheye
from sequor.core.distortion.models import Lens, half_diagonal, no_lens
from sequor.core.frame.cost import carry
from sequor.core.raster.resample import resample, shown
from sequor.core.rectangle import Rectangle
from sequor.core.references.line import bend, slope_of
from sequor.core.warp.homography import warp_of
from sequor.core.warp.wide.base_view import base_view, distance_for
from sequor.core.warp.wide.field import Field
from sequor.core.warp.wide.ground import rows_at
from sequor.core.warp.wide.make import Spread, View, spread, wide_warp
from sequor.core.warp.wide.measured import measured
from sequor.core.warp.wide.sphere import on_sphere, tissot
from sequor.core.warp.wide.view import CannotShowError, Displaced, WideWarp
from sequor.core.warp.wide.wish import Wish, arc, great_circle
from sequor.core.warp.wide.wished import LINE, _fold, _Line, carry_out

Array = NDArray[np.float64]
WIDE, HIGH = 1200, 800
SHORT = Intrinsics(WIDE, HIGH, WIDE * 17 / 36, 0.0, "photo")
TAKEN = Attitude(roll=1.5, pitch=8.0)
DOWN = np.array([0.0, 1.0, 0.0])
PLAIN = no_lens(WIDE, HIGH)
FISH = Fisheye((WIDE / 2, HIGH / 2), 523.0, law="equisolid")
ROUND = View("round", 45.0, 3.0)


def spread_of(view: View = ROUND, taken: Attitude = TAKEN, lens: Lens = PLAIN) -> Spread:
    camera = replace(SHORT, focal_px=lens.unit_px) if not lens.flat else SHORT
    return spread(camera, lens, taken.rotation(), DOWN, view)


def rays(*ends: tuple[float, float, float]) -> Array:
    found = np.array(ends)
    return np.asarray(found / np.linalg.norm(found, axis=1, keepdims=True))


EAVES = rays((-1.0, -0.45, 1.0), (0.3, -0.45, 1.0))
CORNER = rays((0.9, -0.5, 1.0), (0.9, 0.4, 1.0))
KERB = rays((-0.9, 0.5, 1.0), (-0.1, 0.08, 1.0))
WISHES = [
    Wish("eaves", EAVES, slope=0.0),
    Wish("corner", CORNER, slope=90.0),
    Wish("kerb", KERB),
]


def along(map_: Displaced, wish: Wish) -> Array:
    return map_.from_level(arc(wish.rays, np.linspace(0, 1, 200)))


def places(count: int = 400, lens: Lens = PLAIN) -> Array:
    return np.random.default_rng(5).uniform([2, 2], [WIDE - 2, HIGH - 2], (count, 2))


def wide(wishes: list[Wish], view: View = ROUND, lens: Lens = PLAIN) -> WideWarp:
    return wide_warp(spread_of(view, lens=lens), wishes).warp


@pytest.mark.parametrize("left_in", [Attitude(), Attitude(roll=0.4, pitch=3.0)])
@pytest.mark.parametrize("proportion", [1.0, 1.2])
@pytest.mark.parametrize("kind", ["round", "sideways"])
def test_flat_without_wishes_is_the_plain_map(kind: str, proportion: float, left_in: Attitude) -> None:
    """d = 0 is the conjugate rotation (Hartley & Zisserman, 2nd ed., ch. 8) to a millionth of a pixel."""
    lens = Lens((WIDE / 2, HIGH / 2), half_diagonal(WIDE, HIGH), k1=-0.05, p1=0.001)
    turn, _ = corrected_camera(SHORT, TAKEN, left_in, proportion)
    view = View("round" if kind == "round" else "sideways", None, 0.0)
    flat = spread(SHORT, lens, turn, DOWN, view, proportion)
    map_ = wide_warp(flat, []).warp.map
    plain = warp_of(SHORT, TAKEN, left_in, proportion, lens)
    assert np.abs(map_.from_photo(places()) - plain.to_corrected(places())).max() < 1e-6
    corrected = plain.to_corrected(places())
    assert np.abs(map_.to_photo(corrected) - places()).max() < 1e-6


@pytest.mark.parametrize("kind", ["round", "sideways"])
@pytest.mark.parametrize("d", [0.0, 0.3, 1.0])
def test_the_photos_centre_keeps_its_place_and_area(kind: str, d: float) -> None:
    axis = TAKEN.rotation()[:, 2]
    centre = np.array([WIDE / 2, HIGH / 2])
    view = base_view("round" if kind == "round" else "sideways", d, axis, centre, 700.0, 1.3)
    assert np.allclose(view.from_level(axis[None]), centre)
    area = tissot(on_sphere(view.from_level, axis[None], DOWN))[2]
    assert area == pytest.approx(700.0**2, rel=1e-6)


@given(st.floats(0, 1), st.sampled_from(["round", "sideways"]), st.integers(0, 1000))
def test_the_base_view_and_its_inverse(d: float, kind: str, seed: int) -> None:
    axis, centre = np.array([0.0, -0.1, 1.0]), np.array([600.0, 400.0])
    axis /= np.linalg.norm(axis)
    view = base_view("round" if kind == "round" else "sideways", d, axis, centre, 500.0)
    some = np.random.default_rng(seed).normal(0, 1, (30, 3)) * [1, 0.7, 0.3] + [0, 0, 1.0]
    some = some[some[:, 2] > 0.15]
    unit = some / np.linalg.norm(some, axis=1, keepdims=True)
    assert np.allclose(view.to_level(view.from_level(unit)), unit, atol=1e-9)


def test_stereographic_keeps_every_angle() -> None:
    """d = 1 round is stereographic, and that is conformal: J. P. Snyder, Map Projections, 1987, ch. 21."""
    view = base_view("round", 1.0, np.array([0.0, 0, 1]), np.array([600.0, 400.0]), 500.0)
    unit = FISH.rays(places(), FISH.unit_px)
    angle, drawn_out, _ = tissot(on_sphere(view.from_level, unit, DOWN))
    assert angle.max() < 1e-5
    assert drawn_out.max() == pytest.approx(1.0, abs=1e-7)


def test_tissot_of_a_flat_picture_is_the_textbooks() -> None:
    """Gnomonic: along the radius 1 / cos^2, across 1 / cos (Snyder 1987, ch. 22, h' and k')."""
    view = base_view("round", 0.0, np.array([0.0, 0, 1]), np.array([0.0, 0.0]), 1.0)
    angle = np.deg2rad([10.0, 35.0, 55.0])
    unit = np.column_stack([np.sin(angle), np.zeros(3), np.cos(angle)])
    error, drawn_out, area = tissot(on_sphere(view.from_level, unit, DOWN))
    assert np.allclose(drawn_out, 1 / np.cos(angle), rtol=1e-6)
    assert np.allclose(area, np.cos(angle) ** -3, rtol=1e-6)
    most = 2 * np.arcsin((1 / np.cos(angle) - 1) / (1 / np.cos(angle) + 1))
    assert np.allclose(error, np.rad2deg(most), atol=1e-4)


@pytest.mark.parametrize("mm", [24.0, 35.0, 50.0, 85.0])
def test_it_looks_like_so_many_millimetres(mm: float) -> None:
    """At the middle of the short side a round view is stretched as a flat picture of that length is there."""
    edge = np.arctan(18 / 16)
    view = base_view("round", distance_for(float(edge), mm), np.array([0.0, 0, 1]), np.array([0.0, 0.0]), 1.0)
    at_edge = np.array([[np.sin(edge), 0, np.cos(edge)]])
    drawn_out = tissot(on_sphere(view.from_level, at_edge, DOWN))[1]
    assert drawn_out == pytest.approx(np.hypot(18, mm) / mm, rel=1e-6)


def test_splines_are_scipys() -> None:
    """Against scipy.interpolate.BSpline of degree 3 on uniform knots."""
    weights = np.random.default_rng(6).normal(0, 1, (8, 9, 2))
    field = Field(10.0, 20.0, 5.0, weights)
    points = np.random.default_rng(7).uniform([10, 20], [40, 45], (50, 2))
    down = BSpline(np.arange(-3, 9), weights, 3)
    for point, mine in zip(points, field(points), strict=True):
        u, v = (point - [10, 20]) / 5.0
        assert np.allclose(BSpline(np.arange(-3, 10), down(v), 3)(u), mine)
    step = 1e-4
    for axis in (0, 1):
        ahead = step * np.eye(2)[axis]
        slope = (field(points + ahead) - field(points - ahead)) / (2 * step)
        assert np.allclose(field.slopes(points)[:, :, axis], slope, atol=1e-6)


def test_wishes_are_what_a_dense_solve_gives() -> None:
    """Woodbury's short way against the whole normal matrix, its lines' places as unknowns of their own."""
    ground, fixed = spread_of().ground, WISHES[:2]
    lines = [_Line(ground, wish) for wish in fixed]
    normal = np.linalg.inv(ground.inverse)
    right = normal @ ground.rest
    size, extra = len(right), len(lines)
    whole = np.zeros((size + extra, size + extra))
    whole[:size, :size], wanted = normal, np.concatenate([right, np.zeros(extra)])
    for number, line in enumerate(lines):
        at, by = rows_at(ground.field, line.points)
        square_to = np.array([-np.sin(line.direction), np.cos(line.direction)])
        rows = np.zeros((len(line.points), size + extra))
        for axis in (0, 1):
            np.add.at(rows, (np.arange(len(at))[:, None], 2 * at + axis), by * square_to[axis])
        rows[:, size + number] = -1.0
        off = -(line.points - line.middle) @ square_to / ground.field.cell
        whole += LINE * rows.T @ rows
        wanted += LINE * rows.T @ off
    dense = np.linalg.solve(whole, wanted)[:size]
    base = ground.exact.base_of(places())
    mine, theirs = carry_out(ground, fixed).field(base), ground.filled(dense)(base)
    assert np.abs(mine).max() > 5
    assert np.abs(mine - theirs).max() < 0.01


@pytest.mark.parametrize("lens", [PLAIN, FISH])
def test_each_line_becomes_what_was_asked(lens: Lens) -> None:
    """Straight to 0.1 px a thousand of width (fisheye 0.15), of its direction to 0.01 degrees, as exported."""
    made = wide_warp(spread_of(lens=lens), WISHES)
    assert made.met == {"eaves": 1.0, "corner": 1.0, "kerb": 1.0}
    limit = (0.1 if lens is PLAIN else 0.15) * WIDE / 1000
    photo = made.warp.map.exact.photo_of
    for wish in WISHES:
        points = made.warp.to_corrected(photo(arc(wish.rays, np.linspace(0, 1, 200))))
        assert bend(points) < limit
        if wish.slope is not None:
            off = slope_of(points[-1] - points[0]) - wish.slope
            assert abs((off + 90) % 180 - 90) < 0.01


def test_a_wall_leans_as_it_is_meant_to() -> None:
    one = Wish("corner", CORNER, slope=91.0)
    points = along(wide([one]).map, one)
    assert slope_of(points[-1] - points[0]) == pytest.approx(-89.0, abs=0.01)
    assert bend(points) < 0.1


def test_a_part_of_a_wish_is_a_part_of_its_bow() -> None:
    whole, half = replace(WISHES[0], amount=1.0), replace(WISHES[0], amount=0.5)
    bows = [bend(along(wide(each).map, WISHES[0])) for each in ([], [half], [whole])]
    assert bows[1] == pytest.approx(bows[0] / 2, rel=0.05)
    assert bows[2] < 0.1


def test_how_far_wishes_are_carried_out_is_linear() -> None:
    ground = spread_of().ground
    none, half, whole = (carry_out(ground, WISHES, share).field for share in (0.0, 0.5, 1.0))
    assert np.allclose((none.weights + whole.weights) / 2, half.weights)
    assert np.allclose(none.weights, ground.filled(ground.rest).weights)


def test_the_order_of_wishes_is_nothing_to_them() -> None:
    ground = spread_of().ground
    one, other = (carry_out(ground, order).field for order in (WISHES, WISHES[::-1]))
    assert np.abs(one.weights - other.weights).max() < 1e-4


def test_no_wish_and_no_uprights_is_the_base_view() -> None:
    plain = spread_of(replace(ROUND, uprights=0.0))
    assert np.abs(carry_out(plain.ground, []).field.weights).max() < 1e-9


@settings(max_examples=12)
@given(st.floats(-6, 6), st.floats(-12, 12), st.floats(-0.9, 0.9))
def test_a_mirrored_photo_mirrors(roll: float, pitch: float, x: float) -> None:
    line = rays((x, -0.5, 1.0), (x + 0.1, 0.4, 1.0))
    mirror = np.array([-1.0, 1, 1])
    one = wide_warp(spread_of(taken=Attitude(roll=roll, pitch=pitch)), [Wish("a", line, slope=90.0)]).warp.map
    other = wide_warp(
        spread_of(taken=Attitude(roll=-roll, pitch=pitch)), [Wish("a", line * mirror, slope=90.0)]
    ).warp.map
    points = places(60)
    there = other.from_photo(np.column_stack([WIDE - points[:, 0], points[:, 1]]))
    # The cells lie from the left in both, so that they fall otherwise.
    assert np.abs(WIDE - there[:, 0] - one.from_photo(points)[:, 0]).max() < 1.0
    assert np.abs(there[:, 1] - one.from_photo(points)[:, 1]).max() < 1.0


IMPOSSIBLE = [
    Wish("up", rays((-0.5, -0.02, 1), (0.5, 0.02, 1)), slope=0.0),
    Wish("folds", rays((-0.5, 0.08, 1), (0.5, 0.1, 1)), slope=90.0),
]


def test_what_cannot_be_met_is_named_and_nothing_folds() -> None:
    spread_ = spread_of()
    made = wide_warp(spread_, IMPOSSIBLE)
    assert made.met["up"] == 1.0
    assert 0 < made.met["folds"] < 0.8
    assert _fold(spread_.ground, made.warp.map.field, 1.0) is None
    further = carry_out(spread_.ground, [IMPOSSIBLE[0]]).field
    assert not np.allclose(made.warp.map.field.weights, further.weights)
    points = along(made.warp.map, IMPOSSIBLE[0])
    assert bend(points) < 0.2


@pytest.mark.parametrize("lens", [PLAIN, FISH])
def test_all_forms_of_the_map_are_one(lens: Lens) -> None:
    """The lattice, its compiled form and its inverse; the lattice keeps to the closed map."""
    warp = wide(WISHES, lens=lens)
    points = places()
    corrected = warp.to_corrected(points)
    assert np.abs(warp.to_photo(corrected) - points).max() < 1e-6
    assert np.abs(warp.to_photo(warp.map.from_photo(points)) - points).max() < 0.06
    half = warp.at_scale(0.5)
    assert np.allclose(half.to_corrected(points / 2), corrected / 2, atol=1e-6)
    assert np.allclose(half.outline(), warp.outline() / 2)
    larger = warp.resized(1.5, 1.2)
    assert np.allclose(larger.to_corrected(points), corrected * [1.5, 1.2], atol=1e-6)
    vertices = warp.mesh().vertices.reshape(-1, 3)
    assert np.all(np.isfinite(vertices))
    gradient = np.zeros((HIGH, WIDE, 3), np.uint16)
    gradient[..., 0] = np.linspace(0, 60000, WIDE)[None].astype(np.uint16)
    x, y = (int(value) for value in corrected[0])
    around = resample(gradient, warp, float(x - 20), float(y - 20), 40, 40)[..., 0]
    seen_at = warp.to_photo(np.array([[x + 0.5, y + 0.5]]))[0, 0]
    assert around[20, 20] / 60000 * (WIDE - 1) + 0.5 == pytest.approx(seen_at, abs=0.05)


@pytest.mark.parametrize("lens", [PLAIN, FISH])
def test_places_beyond_the_photo_have_one_under_every_map(lens: Lens) -> None:
    """So that areas stay on the same things when the view changes: there and back, and on the photo the same."""
    warp, flat = wide(WISHES, lens=lens), warp_of(SHORT, TAKEN, Attitude())
    middle = warp.to_corrected(places(40) * 0.4 + [360, 240])
    ideal = warp.to_ideal(middle)
    assert np.abs(lens.distorted(ideal) - warp.to_photo(middle)).max() < 0.06
    around = warp.outline()[::20] * 1.15 - 0.15 * warp.outline().mean(axis=0)
    beyond = around[np.isfinite(warp.to_ideal(around)).all(axis=1)]
    assert len(beyond) > 5
    assert np.abs(warp.turned(warp.to_ideal(beyond)) - beyond).max() < 1e-3
    assert np.all(np.isfinite(flat.turned(warp.to_ideal(beyond))))
    far = np.array([[warp.lattice.area.x - 5000.0, warp.lattice.area.y - 5000.0]])
    assert not np.any(warp.to_photo(far) > 0)
    half = warp.resized(0.5, 0.5).at_scale(0.5)
    assert np.allclose(half.to_ideal(middle * 0.25), ideal * 0.5)


def test_the_outline_is_where_the_picture_ends() -> None:
    import shapely

    warp = wide([], lens=FISH)
    low, high = warp.outline().min(axis=0), warp.outline().max(axis=0)
    columns, rows = (int(side) for side in np.ceil(high - low) + 40)
    x, y = (float(value) for value in low - 20)
    seen = shown(warp, x, y, columns, rows)
    u, v = np.meshgrid(x + np.arange(columns) + 0.5, y + np.arange(rows) + 0.5)
    edge = shapely.Polygon(warp.outline())
    inside = shapely.contains_xy(edge.buffer(-0.7), u, v)
    near = shapely.contains_xy(edge.buffer(0.7), u, v)
    assert np.all(seen[inside])
    assert not np.any(seen[~near])


def test_a_fisheye_in_a_flat_view_is_cut_where_it_would_be_stretched_too_far() -> None:
    warp = wide([], View("round", None, 0.0), Fisheye((WIDE / 2, HIGH / 2), 400.0, law="equisolid"))
    assert warp.cuts
    assert np.all(np.isfinite(warp.mesh().vertices))
    assert np.abs(warp.outline()).max() < 20 * WIDE


def test_a_border_kept_a_rectangle_cuts_nothing() -> None:
    warp = wide([], replace(ROUND, rectangle=True))
    outline = warp.outline()
    low, high = outline.min(axis=0), outline.max(axis=0)
    sides = np.minimum(np.abs(outline - low), np.abs(outline - high)).min(axis=1)
    assert sides.max() < 1.0
    assert (high[0] - low[0]) / (high[1] - low[1]) == pytest.approx(WIDE / HIGH, abs=0.002)
    with pytest.raises(CannotShowError, match="border"):
        spread_of(View("round", None, 0.0, rectangle=True), lens=Fisheye((WIDE / 2, HIGH / 2), 400.0))


def test_found_things_bend_less() -> None:
    """Segments that nobody laid are led along weakly."""
    ends = np.array([[[60.0, 300.0], [500.0, 340.0]]])
    bows = []
    for found in (None, ends):
        spread_ = spread_of(replace(ROUND, found=found))
        warp = wide_warp(spread_, [WISHES[0], WISHES[1]]).warp
        rays_ = spread_.exact.rays_of(ends[0])
        bows.append(bend(warp.map.from_level(arc(rays_, np.linspace(0, 1, 60)))))
    assert bows[1] < 0.7 * bows[0]


def test_uprights_are_kept_as_firmly_as_that_is_asked() -> None:
    leans = []
    high = Wish("high", rays((-0.8, -0.6, 1.0), (-0.8, -0.1, 1.0)))
    for uprights in (0.0, 3.0, 20.0):
        points = along(wide([], replace(ROUND, uprights=uprights)).map, high)
        leans.append(abs(slope_of(points[0] - points[-1]) % 180 - 90))
    assert leans[0] > leans[1] > leans[2]
    assert leans[2] < 0.3


def test_a_thing_whose_lens_nobody_described_follows_its_points() -> None:
    """Its points are the curve itself."""
    curve = np.array([[100.0, 120.0], [600.0, 95.0], [1100.0, 125.0]])
    exact = spread_of().exact
    wish = Wish("edge", great_circle(exact.rays_of(curve)), trace=curve, slope=None)
    warp = wide([wish])
    parabola = np.polyfit([0.0, 0.5, 1.0], curve, 2)
    share = np.linspace(0, 1, 60)
    points = np.column_stack([np.polyval(parabola[:, 0], share), np.polyval(parabola[:, 1], share)])
    assert bend(warp.map.from_photo(points)) < 0.5


def test_moving_an_end_by_a_pixel_moves_nothing_by_much() -> None:
    """No jump over a sweep of 100 px, and nothing moves by more than 1.5 px for each."""
    spread_, points = spread_of(), places(150)
    before = None
    for step in range(0, 100, 4):
        ends = np.array([[200.0, 150.0 + step], [900.0, 180.0]])
        wish = Wish("a", spread_.exact.rays_of(ends), slope=0.0)
        field = carry_out(spread_.ground, [wish]).field
        now = Displaced(spread_.exact, field).from_photo(points)
        if before is not None:
            assert np.hypot(*(now - before).T).max() < 4 * 1.5
        before = now


def test_what_a_view_costs_is_told() -> None:
    flat, rounded = (measured(wide([], view)) for view in (View("round", None, 0.0), ROUND))
    assert rounded.drawn_out < flat.drawn_out
    assert flat.bend < 1e-9 < rounded.bend


def test_a_frame_whose_middle_has_no_place_is_put_into_the_picture() -> None:
    """A hand-made frame far beyond the picture, or one whose middle the new view cuts."""
    warp, flat = wide([]), warp_of(SHORT, TAKEN, Attitude())
    far = Rectangle(-1e5, -1e5, 300.0, 200.0)
    moved = carry(far, warp, flat, None)
    assert np.all(np.isfinite([moved.x, moved.y, moved.width, moved.height]))
    assert Rectangle.between(flat.outline()).contains(moved, 1.0)
