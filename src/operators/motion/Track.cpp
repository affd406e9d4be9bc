// Method: own; see motion/Tracks.
#include "breaking/Pieces.h"
#include "motion/Tracks.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

#include <cmath>
#include <unordered_set>

namespace seedloom {

namespace {

constexpr int kLatestFrame = 100'000;
constexpr std::size_t kMostMoments = 20'000;

struct TrackFrame {
    int frame = 0;
    std::shared_ptr<const Moments> kept;
    std::shared_ptr<const Moment> now;  ///< null before the first frame that counts
    std::size_t doubled = 0;            ///< things whose number another one has
};

const TrackFrame& tracked(const FrameState& state) { return *static_cast<const TrackFrame*>(state.own.get()); }

FrameState stateOf(TrackFrame frame) {
    const std::size_t bytes = (frame.now ? frame.now->places.size() * sizeof(Vec3) : 0) + frame.kept->size() * sizeof(frame.now);
    return {{}, std::make_shared<const TrackFrame>(std::move(frame)), bytes};
}

std::string whatMoves(const OperatorCall& call, const Geometry& in) {
    const std::string of = call.choice("of");
    if (of != "what there is") return of;
    return in.copyCount() > 0 ? "copies" : in.faceCount() > 0 ? "pieces" : "points";
}

struct Numbered {
    std::vector<std::int64_t> ids;
    std::vector<Vec3> places;
};

/// By `id`; where there is none, by their order.
std::vector<std::int64_t> idsOf(const Geometry& in, Element element) {
    std::vector<std::int64_t> out(in.count(element));
    const Column* ids = in.column(element, "id");
    const bool numbers = ids && ids->type() != ColumnType::text;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double id = numbers ? ids->component(i, 0) : double(i);
        out[i] = std::isfinite(id) && std::abs(id) < 2e9 ? std::int64_t(id) : std::int64_t(i);
    }
    return out;
}

/// The mean of each piece's points: it moves as a rigid piece does.
Numbered middlesOf(const Geometry& in) {
    const PieceList pieces = piecesIn(in);
    std::vector<std::array<double, 4>> sums(pieces.count);
    for (Index f = 0; f < in.faceCount(); ++f)
        for (const Index p : in.topology().face(f)) {
            auto& sum = sums[pieces.ofFace[f]];
            const Vec3 at = in.positions()[p];
            sum[0] += double(at.x), sum[1] += double(at.y), sum[2] += double(at.z), ++sum[3];
        }
    Numbered out{{pieces.number.begin(), pieces.number.end()}, {}};
    for (const auto& sum : sums) out.places.push_back({float(sum[0] / sum[3]), float(sum[1] / sum[3]), float(sum[2] / sum[3])});
    return out;
}

Numbered numberedIn(const OperatorCall& call, const Geometry& in) {
    const std::string of = whatMoves(call, in);
    if (of == "pieces") return in.faceCount() > 0 ? middlesOf(in) : Numbered{};
    if (of == "points") return {idsOf(in, Element::point), in.positions()};
    Numbered out{idsOf(in, Element::copy), {}};
    for (std::size_t c = 0; c < in.copyCount(); ++c) out.places.push_back(in.copies()->place[c].move);
    return out;
}

/// The first of those with equal numbers stays; gives how many went.
std::size_t dropDoubled(Numbered& things) {
    std::unordered_set<std::int64_t> seen;
    std::size_t to = 0;
    for (std::size_t i = 0; i < things.ids.size(); ++i)
        if (seen.insert(things.ids[i]).second) things.ids[to] = things.ids[i], things.places[to++] = things.places[i];
    const std::size_t gone = things.ids.size() - to;
    things.ids.resize(to), things.places.resize(to);
    return gone;
}

/// What a frame adds to what was before.
FrameState add(OperatorCall& call, TrackFrame frame) {
    const int from = call.integer("from"), every = call.integer("every");
    if (frame.frame < from) return stateOf(std::move(frame));
    Numbered things = numberedIn(call, call.in());
    frame.doubled = dropDoubled(things);
    auto moment = std::make_shared<Moment>();
    moment->frame = frame.frame;
    const bool same = frame.now && *frame.now->ids == things.ids;
    moment->ids = same ? frame.now->ids : std::make_shared<const std::vector<std::int64_t>>(std::move(things.ids));
    moment->places = std::move(things.places);
    frame.now = std::move(moment);
    if ((frame.frame - from) % every != 0) return stateOf(std::move(frame));
    if (frame.kept->size() >= kMostMoments)
        call.fail("track.long", fmt::format("Tracks have at most {} points each. Raise Every, or From.", kMostMoments), "every");
    Moments kept = *frame.kept;
    kept.push_back(frame.now);
    frame.kept = std::make_shared<const Moments>(std::move(kept));
    return stateOf(std::move(frame));
}

FrameState startTrack(OperatorCall& call) { return add(call, {0, std::make_shared<const Moments>(), nullptr, 0}); }

FrameState advanceTrack(OperatorCall& call, const FrameState& before) {
    TrackFrame next = tracked(before);
    ++next.frame;
    return add(call, std::move(next));
}

Geometry showTrack(OperatorCall& call, const FrameState& state) {
    const TrackFrame& frame = tracked(state);
    Moments moments = *frame.kept;
    if (frame.now && (moments.empty() || moments.back() != frame.now)) moments.push_back(frame.now);
    Geometry out = tracksOf(moments, frame.frame, call.run());
    if (frame.doubled > 0)
        call.tell(NoticeLevel::warning, "track.doubled",
                  fmt::format("{} left out, as another one has the same id. Number them anew, or remove the attribute id.",
                              frame.doubled == 1 ? "1 thing is" : fmt::format("{} things are", frame.doubled)));
    if (moments.size() > 1 && out.curveCount() == 0)
        call.tell(NoticeLevel::info, "track.still",
                  "Nothing has moved so far. What comes in must follow the Time drawer: where a step before keeps a frame, let it follow, and keep one here.");
    return out;
}

}  // namespace

OperatorSpec trackOperator() {
    OperatorSpec spec;
    spec.id = "track";
    spec.order = 920;
    spec.label = "Track";
    spec.family = Family::motion;
    spec.sentence = "Draws the ways that moving points, copies or pieces have made, as curves.";
    spec.help =
        "Each thing is known by its number from frame to frame: copies and points by id, else by their order, pieces by the attribute piece. A copy's way is "
        "that of its origin, a piece's that of the mean of its points. The curves lead up to the frame of the Time drawer, or to the one that is kept; what "
        "stands still adds no points, and what comes back after it was gone begins a new curve. Points know along (0 to 1) and age (how many frames ago), "
        "curves id.";
    spec.synonyms = {"trail", "path", "motion path", "trajectory", "trace", "streak", "wake"};
    spec.inputs = {{"in", "Moving"}};
    spec.settings = {
        integerSetting("from", "From", 0).within(0, kLatestFrame).slider(0, 120).helped("The frame at which the ways begin."),
        integerSetting("every", "Every", 1).within(1, 10000).slider(1, 12).helped("How many frames lie between the points of a curve."),
        choiceSetting("of", "Of", {"what there is", "copies", "pieces", "points"}, "what there is")
            .helped("What is followed; by itself: copies where there are any, else pieces, else points."),
        integerSetting("at_frame", "At frame", -1).within(-1, kLatestFrame).slider(-1, 240).helped("The frame that is the result; -1 follows the Time drawer."),
    };
    spec.sample = sample::step(spec.id, {{"at_frame", 26}},
                               {sample::around("time_step", Json::object(),
                                               sample::step("transform", {{"rotate", {0, 9, 4}}, {"scale", 0.96}, {"move", {0, 0.03, 0}}}, {sample::part()}),
                                               sample::step("scatter", {{"count", 12}}, {sample::ball()}))});
    spec.start = startTrack;
    spec.advance = advanceTrack;
    spec.show = showTrack;
    spec.frameSetting = "at_frame";
    return spec;
}

}  // namespace seedloom
