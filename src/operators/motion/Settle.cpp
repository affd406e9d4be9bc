// Method: rigid bodies with sequential impulses (Catto 2005), by Bullet; see motion/RigidScene.
#include "fields/Formula.h"
#include "geometry/Triangulate.h"
#include "motion/SurfaceOverlaps.h"
#include "operators/motion/SettledFrame.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr std::size_t kMostBodies = 20'000;
constexpr double kMostInside = 0.02;  // of the smaller one's size
constexpr double kTouching = 0.004;   // of half a body's size: faces so near to each other can be glued
constexpr int kMostFrames = 100'000;
constexpr float kFarthest = 1e6f;  // m

/// A setting's values by body: the mean over each piece's faces, then those of copies.
std::vector<float> byBody(const OperatorCall& call, std::string_view id, const Geometry& g, const PieceList& pieces) {
    std::vector<float> out;
    if (pieces.count > 0) out = eachPiece(call.each(id, g, Element::face), pieces);
    if (g.copyCount() == 0) return out;
    const Field<float> copies = call.each(id, g, Element::copy);
    for (std::size_t c = 0; c < g.copyCount(); ++c) out.push_back(copies[c]);
    return out;
}

std::vector<Vec3> pushes(const OperatorCall& call, const Geometry& g, const PieceList& pieces) {
    std::vector<Vec3> out(pieces.count);
    if (pieces.count > 0) {
        const Field<Vec3> each = call.each3("push", g, Element::face);
        std::vector<float> faces(pieces.count);
        for (std::size_t f = 0; f < pieces.ofFace.size(); ++f) out[pieces.ofFace[f]] += each[f], ++faces[pieces.ofFace[f]];
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = out[i] / faces[i];
    }
    if (g.copyCount() == 0) return out;
    const Field<Vec3> copies = call.each3("push", g, Element::copy);
    for (std::size_t c = 0; c < g.copyCount(); ++c) out.push_back(copies[c]);
    return out;
}

bool sharePoints(const Geometry& g, const PieceList& pieces) {
    std::vector<Index> of(g.pointCount(), pieces.count);
    for (Index f = 0; f < g.faceCount(); ++f)
        for (const Index p : g.topology().face(f)) {
            if (of[p] != pieces.count && of[p] != pieces.ofFace[f]) return true;
            of[p] = pieces.ofFace[f];
        }
    return false;
}

void checkBodies(const OperatorCall& call, const Geometry& g, std::size_t bodies) {
    if (bodies == 0) call.fail("settle.none", "There are neither faces nor copies here, and so nothing that could fall.");
    if (bodies > kMostBodies)
        call.fail("settle.many",
                  fmt::format("These are {} bodies; at most {} fall at once. Take fewer pieces or copies, or let heaps of them fall one after the other.",
                              bodies, kMostBodies));
    const auto reachable = [](Vec3 p) { return isFinite(p) && length(p) < kFarthest; };
    if (!std::all_of(g.positions().begin(), g.positions().end(), reachable))
        call.fail("settle.nowhere", "Some points are no numbers, or more than 1 000 km away. Mend what comes in, or delete them.");
    if (!g.copies()) return;
    for (const Affine& place : g.copies()->place)
        if (!reachable(place.move) || !(std::abs(place.determinant()) > 0))
            call.fail("settle.flat", "Some copies have no extent, or no place. Give their scale a number above 0 in every direction.");
}

void checkEach(const OperatorCall& call, const std::vector<float>& values, const char* id, const char* label, double least, double most) {
    for (const float each : values)
        if (!std::isfinite(each) || each < least || each > most)
            call.fail("setting.range", fmt::format("{} is {} at some bodies; it must be from {} to {}.", label, each, least, most), id);
}

std::vector<Triangle3> groundOf(const OperatorCall& call) {
    std::vector<Triangle3> out;
    if (call.port(1).empty()) return out;
    const Geometry& ground = call.port(1).front();
    const Triangles triangles = triangulate(ground);
    const auto& corner = ground.topology().cornerPoint();
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        Triangle3 one;
        for (std::size_t c = 0; c < 3; ++c) one[c] = ground.positions()[corner[triangles.corners[t * 3 + c]]];
        if (std::all_of(one.begin(), one.end(), [](Vec3 p) { return isFinite(p) && length(p) < kFarthest; })) out.push_back(one);
    }
    if (out.empty())
        call.fail("settle.ground", "What is plugged in as ground has no faces. Plug a mesh in, or nothing: then there is a level floor at a height of 0.");
    return out;
}

std::string nameOf(const Settling& all, std::uint32_t body) {
    if (body == kGroundBody) return "the ground";
    if (body < all.model.pieces) return fmt::format("piece {}", all.pieces.number[body]);
    return fmt::format("copy {}", body - all.model.pieces);
}

void tellOverlaps(OperatorCall& call, const Settling& all, const std::vector<BodyOverlap>& overlaps, bool atStart) {
    if (overlaps.empty()) return;
    const BodyOverlap& worst = overlaps.front();
    if (atStart && worst.b == kGroundBody) {
        call.offer(insertFix("Lift them before it", "transform", {{"move", {0, twoDigits(worst.depth, std::ceil), 0}}}));
    } else if (atStart) {
        if (call.choice("collision") != "parts") call.offer(setFix("Follow their hollows", "collision", "parts"));
        if (all.model.pieces > 0) call.offer(insertFix("Spread them before it", "spread_pieces", {{"amount", 0.1}}));
    }
    call.tell(NoticeLevel::warning, atStart ? "settle.start" : "settle.inside",
              fmt::format("{} {} in each other{}: {}{} in {} by {:.2g} m.", overlaps.size(), overlaps.size() == 1 ? "pair stands" : "pairs stand",
                          atStart ? " at the start and are pushed apart" : "", overlaps.size() == 1 ? "" : "most of all ", nameOf(all, worst.a),
                          nameOf(all, worst.b), worst.depth));
}

/// Pieces of a break fit into each other, but what stands for them may not.
void tellFitted(OperatorCall& call, const std::vector<BodyOverlap>& fitted) {
    if (fitted.empty()) return;
    const std::string collision = call.choice("collision");
    if (collision != "parts") call.offer(setFix("Follow their hollows", "collision", "parts"));
    call.tell(NoticeLevel::info, "settle.fitted",
              fmt::format("{} {} into each other, but what they meet as ({}) overlaps, by up to {:.2g} m: as they fall they are pushed apart.", fitted.size(),
                          fitted.size() == 1 ? "pair fits" : "pairs fit", collision, fitted.front().depth));
}

Triple tripleOf(Vec3 v) { return {double(v.x), double(v.y), double(v.z)}; }

/// Bodies whose middle lies under the floor at the start.
void tellBuried(OperatorCall& call, const Settling& all) {
    if (all.hasGround) return;
    std::size_t under = 0;
    double lowest = 0;
    for (const BodyState& body : all.model.start) under += body.at[1] < 0, lowest = std::min(lowest, body.at[1]);
    if (under == 0) return;
    call.offer(insertFix("Lift them before it", "transform", {{"move", {0, twoDigits(-2 * lowest, std::ceil), 0}}}));
    call.tell(NoticeLevel::warning, "settle.under",
              fmt::format("{} of {} bodies are under the floor at the start, which is level at a height of 0. Lift them, or plug a ground in.", under,
                          all.model.count()));
}

std::vector<std::uint8_t> heldOf(const OperatorCall& call, const Geometry& g, const PieceList& pieces) {
    std::vector<std::uint8_t> out;
    for (const float each : byBody(call, "held", g, pieces)) out.push_back(each > 0.5f);
    return out;
}

/// Whether what is held may be let go at some frame.
bool letsGo(const OperatorCall& call) {
    const auto* formula = std::get_if<FormulaSource>(&call.source("held"));
    if (!formula) return false;
    const auto parsed = parseFormula(formula->text);
    return parsed && namesIn(**parsed).time;
}

/// What is held from the start meets others by its own faces.
void giveFaces(Settling& all, const std::vector<std::uint8_t>& held, const RunContext& run) {
    if (std::find(held.begin(), held.end(), 1) == held.end()) return;
    std::vector<std::vector<Triangle3>> surfaces = surfacesOf(all.model, all.pieces, run);
    for (std::size_t i = 0; i < held.size(); ++i)
        if (held[i]) all.model.bodies[i].faces = inFrameOf(all.model.start[i], std::move(surfaces[i]));
}

/// Bonds between all that touches, as strong as the weaker one's glue. Strength: kilopascals.
Glue glueOf(const Settling& all, const std::vector<float>& strength, const RunContext& run) {
    std::vector<double> sizes;
    for (std::size_t i = 0; i < all.model.count(); ++i) sizes.push_back(all.scene->halfSize(i));
    std::nth_element(sizes.begin(), sizes.begin() + std::ptrdiff_t(sizes.size() / 2), sizes.end());
    Glue out;
    for (const Bond& bond : bondsBetween(surfacesOf(all.model, all.pieces, run), kTouching * sizes[sizes.size() / 2], run)) {
        const double weaker = double(std::min(strength[bond.a], strength[bond.b]));
        if (weaker > 0) out.bonds.push_back(bond), out.strength.push_back(weaker * 1000);
    }
    return out;
}

/// Leaves those that can be pushed apart: not those that move as one, nor those that are held, which stand as somebody wants them.
void eraseStill(std::vector<BodyOverlap>& overlaps, const std::vector<std::uint32_t>& clump, const std::vector<std::uint8_t>& held) {
    std::erase_if(overlaps, [&](const BodyOverlap& pair) {
        const bool ground = pair.b == kGroundBody;
        return (!ground && clump[pair.a] == clump[pair.b]) || (held[pair.a] && (ground || held[pair.b]));
    });
}

Digest digestOf(const FrameForces& forces) {
    Digester out;
    out.add(&forces.gravity, sizeof forces.gravity);
    for (const auto* values : {forces.friction, forces.bounce}) out.add(values->data(), values->size() * sizeof(float));
    return out.finish();
}

FrameState startSettle(OperatorCall& call) {
    Geometry in = call.in();
    PieceList pieces = in.faceCount() > 0 ? piecesIn(in) : PieceList{};
    checkBodies(call, in, pieces.count + in.copyCount());
    if (sharePoints(in, pieces)) {
        in = takePieces(in, pieces, std::vector<std::uint8_t>(pieces.count, 1));
        pieces = piecesIn(in);
    }
    const auto density = byBody(call, "density", in, pieces);
    checkEach(call, density, "density", "Density", 0.01, 1e5);
    const std::string collision = call.choice("collision");
    auto all = std::make_shared<Settling>();
    const BodyShape shape = collision == "box" ? BodyShape::box : collision == "parts" ? BodyShape::parts : BodyShape::hull;
    // What is never let go meets others by its own faces alone.
    const std::vector<std::uint8_t> held = heldOf(call, in, pieces), none(held.size());
    const bool faces = shape == BodyShape::parts;
    all->model = movingModelOf(in, pieces, shape, density, faces && !letsGo(call) ? held : none, call.run());
    const std::vector<Triangle3> ground = groundOf(call);
    all->hasGround = !ground.empty();
    all->pieces = std::move(pieces);
    if (faces) giveFaces(*all, held, call.run());
    all->scene = RigidScene::make(all->model.bodies, ground);
    SettledFrame out{all, all->model.start, {}};
    const std::vector<Vec3> push = pushes(call, in, all->pieces);
    const Triple gravity = tripleOf(call.vec3("gravity"));
    const double step = 1.0 / 24 / all->scene->substeps(1.0 / 24, double(length(call.vec3("gravity"))));
    for (std::size_t i = 0; i < push.size(); ++i) {
        if (!isFinite(push[i])) call.fail("setting.number", "Push is no number at some bodies. Remap it, or give a plain vector.", "push");
        // Half a step of gravity less, so that what falls free is where the law of falling says.
        for (std::size_t a = 0; a < 3; ++a) out.bodies[i].velocity[a] = tripleOf(push[i])[a] - gravity[a] * step / 2;
    }
    const std::vector<float> glue = byBody(call, "glue", in, all->pieces);
    checkEach(call, glue, "glue", "Glue", 0, 1e6);
    all->wantsGlue = std::any_of(glue.begin(), glue.end(), [](float each) { return each > 0; });
    if (all->wantsGlue) all->glue = glueOf(*all, glue, call.run());
    out.bonds = std::make_shared<const BondsLeft>(all->glue.bonds.size(), std::uint8_t(1));
    std::vector<BodyOverlap> overlaps = all->scene->overlaps(out.bodies, kMostInside);
    eraseStill(overlaps, clumpNumbers(out.bodies.size(), all->glue, *out.bonds), held);
    SurfaceOverlaps parted = bySurface(all->model, all->pieces, *all->scene, overlaps, out.bodies, kMostInside, call.run());
    all->startsInside = std::move(parted.real), all->startsFitted = std::move(parted.standIns);
    return stateOf(std::move(out));
}

Digest digestOfBearing(const SettledFrame& frame, const FrameLoads& loads) {
    Digester out;
    out.add(&loads.gravity, sizeof loads.gravity);
    out.add(loads.held->data(), loads.held->size());
    out.add(frame.bonds->data(), frame.bonds->size());
    return out.finish();
}

/// What broke makes clumps of its own, which are awake.
void breakBonds(SettledFrame& frame, FrameLoads loads, std::vector<std::uint32_t>& clump, const RunContext& run) {
    const Settling& all = *frame.all;
    const Digest bearing = digestOfBearing(frame, loads);
    loads.weightBorne = frame.borne == bearing;
    BondsLeft left = bondsAfter(all.glue, *frame.bonds, all.model.bodies, all.model.start, frame.bodies, loads, run);
    if (left == *frame.bonds) {
        frame.borne = bearing;
        return;
    }
    std::vector<std::uint32_t> now = clumpNumbers(frame.bodies.size(), all.glue, left);
    frame.bonds = std::make_shared<const BondsLeft>(std::move(left));
    const auto members = [](const std::vector<std::uint32_t>& of) {
        std::vector<std::size_t> out(of.size());
        for (const std::uint32_t first : of) ++out[first];
        return out;
    };
    const auto before = members(clump), after = members(now);
    for (std::size_t i = 0; i < now.size(); ++i)
        if (before[clump[i]] != after[now[i]]) frame.bodies[i].asleep = false, frame.bodies[i].calm = 0;
    clump = std::move(now);
}

/// Who stands in whom in earnest: what only fits into the hollow of another one's hull is where it looks to be.
std::vector<BodyOverlap> standingInside(const OperatorCall& call, const Settling& all, const std::vector<BodyState>& bodies,
                                        const std::vector<std::uint32_t>& clump, const std::vector<std::uint8_t>& held) {
    std::vector<BodyOverlap> overlaps = all.scene->overlaps(bodies, kMostInside);
    eraseStill(overlaps, clump, held);
    return bySurface(all.model, all.pieces, *all.scene, overlaps, bodies, kMostInside, call.run()).real;
}

FrameState advanceSettle(OperatorCall& call, const FrameState& state) {
    const SettledFrame& before = settled(state);
    const MovingModel& model = before.all->model;
    const Glue& glue = before.all->glue;
    SettledFrame out{before.all, {}, before.presses, before.frame + 1, before.restsAt};
    out.bonds = before.bonds, out.borne = before.borne;
    const int last = call.integer("frames");
    if (before.frame >= last) {
        out.bodies = before.bodies, out.inside = before.inside, out.forces = before.forces;
        return stateOf(std::move(out));
    }
    const PieceList& pieces = before.all->pieces;
    const auto friction = byBody(call, "friction", model.geometry, pieces), bounce = byBody(call, "bounce", model.geometry, pieces);
    checkEach(call, friction, "friction", "Friction", 0, 10);
    checkEach(call, bounce, "bounce", "Bounce", 0, 1);
    const auto held = heldOf(call, model.geometry, pieces);
    FrameForces forces{tripleOf(call.vec3("gravity"))};
    forces.friction = &friction, forces.bounce = &bounce, forces.held = &held;
    out.forces = digestOf(forces);
    std::vector<BodyState> bodies = before.bodies;
    // What rested may not, where something else acts on it.
    if (out.forces != before.forces)
        for (BodyState& body : bodies) body.asleep = false;
    std::vector<std::uint32_t> clump = clumpNumbers(bodies.size(), glue, *before.bonds);
    forces.clump = &clump;
    StepLoads loads;
    out.bodies = before.all->scene->advanced(bodies, forces, call.run(), &out.presses, glue.bonds.empty() ? nullptr : &loads);
    if (!glue.bonds.empty()) breakBonds(out, {loads, forces.gravity, &held}, clump, call.run());
    // What is glued to something held hangs there.
    std::vector<std::uint8_t> hangs(clump.size());
    for (std::size_t i = 0; i < clump.size(); ++i) hangs[clump[i]] |= held[i];
    bool rest = true;
    for (std::size_t i = 0; i < clump.size(); ++i) rest = rest && (out.bodies[i].asleep || hangs[clump[i]]);
    if (rest && out.restsAt < 0) out.restsAt = out.frame;
    // From there on, and where it ends, it is known who stands in whom.
    const bool looks = out.restsAt == out.frame || out.frame == last;
    if (looks || out.restsAt >= 0) out.inside = looks ? standingInside(call, *before.all, out.bodies, clump, held) : before.inside;
    return stateOf(std::move(out));
}

Geometry showSettle(OperatorCall& call, const FrameState& state) {
    const SettledFrame& frame = settled(state);
    // Told at every frame: somebody may never look at the first one.
    if (!frame.all->hasGround) call.tell(NoticeLevel::info, "settle.floor", "Nothing is plugged in as ground: they fall onto a level floor at a height of 0.");
    tellBuried(call, *frame.all);
    tellOverlaps(call, *frame.all, frame.all->startsInside, true);
    tellFitted(call, frame.all->startsFitted);
    tellOverlaps(call, *frame.all, frame.inside, false);
    if (frame.all->wantsGlue && frame.all->glue.bonds.empty())
        call.tell(NoticeLevel::info, "settle.unglued",
                  "There is nothing to glue: no two pieces lie on each other with their faces, as those do that a break made.");
    Geometry out = movedModel(frame.all->model, frame.bodies, call.run());
    out.setColumn(Element::model, "bonds", Column(std::vector<std::int32_t>{std::int32_t(std::count(frame.bonds->begin(), frame.bonds->end(), 1))}));
    out.setColumn(Element::model, "settled_at", Column(std::vector<std::int32_t>{frame.restsAt}));
    return out;
}

}  // namespace

OperatorSpec settleOperator() {
    OperatorSpec spec;
    spec.id = "settle";
    spec.order = 900;
    spec.label = "Settle";
    spec.family = Family::motion;
    spec.sentence = "Lets pieces or copies fall, slide and come to rest on a ground.";
    spec.help =
        "Every piece (by the face attribute piece, or what hangs together) and every copy is a rigid body: it falls, hits others and the ground, slides and "
        "comes "
        "to rest. Frame 0 is what comes in; each frame of the Time drawer follows from the one before, and At frame keeps one as the result. Shapes stay as "
        "they are, "
        "to the bit, in their own frame. Where bodies meet, each is its hull, its box, or some hulls that follow its hollows. Glue makes one "
        "body of pieces that lie on each other, until weight or a blow pulls harder on where they touch than the weaker of the two holds. Writes velocity, and "
        "for the model settled_at, the frame from which all rest, -1 before, and bonds, how many pairs are still glued. The result is the same on every run.";
    spec.synonyms = {"rigid body", "physics", "simulation", "gravity", "drop", "fall", "collide", "heap", "pile", "rest", "glue", "collapse"};
    spec.inputs = {{"in", "Pieces"}, {"ground", "Ground", false, true}};
    spec.settings = {
        integerSetting("frames", "Frames", 240).within(1, kMostFrames).slider(24, 480).helped("How long they move at most, 24 a second."),
        integerSetting("at_frame", "At frame", -1).within(-1, kMostFrames).slider(-1, 240).helped("The frame that is the result; -1 follows the Time drawer."),
        choiceSetting("collision", "Meet as", {"hull", "box", "parts"}, "hull")
            .helped(
                "What stands for a body where it meets others: its hull, its box, or hulls that follow its hollows; what is held then meets them by its own "
                "faces."),
        numberSetting("density", "Density", Unit::none, 2400).within(0.01, 1e5).slider(100, 8000).each(Element::face).helped("Kilograms a cubic metre."),
        numberSetting("friction", "Friction", Unit::none, 0.6)
            .within(0, 10)
            .slider(0, 1.2)
            .each(Element::face)
            .helped("0 slides like ice; at 0.6 they slide on slopes over 31°."),
        numberSetting("bounce", "Bounce", Unit::part, 0.05)
            .within(0, 1)
            .slider(0, 0.8)
            .each(Element::face)
            .helped("How much of their speed stays when they hit something."),
        numberSetting("glue", "Glue", Unit::none, 0)
            .within(0, 1e6)
            .slider(0, 1000)
            .each(Element::face)
            .helped("What holds pieces together that lie on each other, kilopascals: 0 nothing, 300 a lean mortar, 2500 concrete. Where it is pulled "
                    "harder than that, it breaks."),
        vec3Setting("push", "Push", Unit::none, {0, 0, 0}).each(Element::face).helped("Their velocity at the start, metres a second."),
        numberSetting("held", "Held", Unit::part, 0).within(0, 1).each(Element::face).helped("Over 0.5 they stay where they are."),
        vec3Setting("gravity", "Gravity", Unit::none, {0, -9.81f, 0}).helped("Metres a second, each second."),
    };
    spec.sample =
        sample::step(spec.id, {{"at_frame", 60}, {"push", {{"formula", "position * vec3(1.2, 0, 1.2)"}}}},
                     {sample::step("shatter", {{"pieces", 14}, {"seed", 1}}, {sample::step("transform", {{"move", {0, 0.7, 0}}}, {sample::ball()})})});
    spec.start = startSettle;
    spec.advance = advanceSettle;
    spec.show = showSettle;
    spec.save = saveSettled;
    spec.restore = restoreSettled;
    spec.frameSetting = "at_frame";
    return spec;
}

}  // namespace seedloom
