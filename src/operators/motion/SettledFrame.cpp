#include "operators/motion/SettledFrame.h"

#include "files/NumberBytes.h"

namespace seedloom {

const SettledFrame& settled(const FrameState& state) { return *static_cast<const SettledFrame*>(state.own.get()); }

FrameState stateOf(SettledFrame frame) {
    const std::size_t bytes = frame.bodies.size() * sizeof(BodyState) + frame.presses.size() * sizeof(BodyPress) + frame.bonds->size();
    return {{}, std::make_shared<const SettledFrame>(std::move(frame)), bytes};
}

namespace {

template <class Numbers, class Body, class Each> void eachNumber(Numbers& bytes, Body& body, Each&& each) {
    for (auto* values : {&body.at, &body.velocity, &body.spin})
        for (auto& value : *values) each(bytes, value);
    for (auto& value : body.turn) each(bytes, value);
    each(bytes, body.calm);
}

}  // namespace

std::string saveSettled(const FrameState& state) {
    const SettledFrame& frame = settled(state);
    NumberBytes out;
    out.add(frame.frame), out.add(frame.restsAt), out.add(frame.forces), out.add(frame.borne);
    for (const BodyState& body : frame.bodies) {
        eachNumber(out, body, [](NumberBytes& bytes, const auto& value) { bytes.add(value); });
        out.add(std::uint8_t(body.asleep));
    }
    for (const std::uint8_t left : *frame.bonds) out.add(left);
    out.add(std::uint64_t(frame.presses.size()));
    for (const BodyPress& press : frame.presses) out.add(press.a), out.add(press.b), out.add(press.force);
    for (const BodyOverlap& pair : frame.inside) out.add(pair.a), out.add(pair.b), out.add(pair.depth);
    return std::move(out.text);
}

std::optional<FrameState> restoreSettled(const FrameState& first, std::string_view text) {
    const auto all = settled(first).all;
    SettledFrame out{all, std::vector<BodyState>(all->model.count()), {}};
    NumbersRead in(text);
    in.take(out.frame), in.take(out.restsAt), in.take(out.forces), in.take(out.borne);
    for (BodyState& body : out.bodies) {
        eachNumber(in, body, [](NumbersRead& bytes, auto& value) { bytes.take(value); });
        std::uint8_t asleep = 0;
        in.take(asleep);
        body.asleep = asleep != 0;
    }
    BondsLeft bonds(all->glue.bonds.size());
    for (std::uint8_t& left : bonds) in.take(left);
    out.bonds = std::make_shared<const BondsLeft>(std::move(bonds));
    std::uint64_t presses = 0;
    in.take(presses);
    if (presses > in.left() / sizeof(BodyPress)) return {};
    out.presses.resize(presses);
    for (BodyPress& press : out.presses) {
        in.take(press.a), in.take(press.b), in.take(press.force);
        if (press.a >= out.bodies.size() || (press.b != kGroundBody && press.b >= out.bodies.size())) return {};
    }
    constexpr std::size_t kPair = 2 * sizeof(std::uint32_t) + sizeof(double);
    if (in.left() % kPair == 0) out.inside.resize(in.left() / kPair);
    for (BodyOverlap& pair : out.inside) {
        in.take(pair.a), in.take(pair.b), in.take(pair.depth);
        if (pair.a >= out.bodies.size() || (pair.b != kGroundBody && pair.b >= out.bodies.size())) return {};
    }
    if (!in.whole()) return {};
    return stateOf(std::move(out));
}

}  // namespace seedloom
