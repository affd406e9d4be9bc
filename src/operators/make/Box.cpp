// Method: own: a grid a side, edges shared.
#include "operators/OperatorCall.h"

#include <array>
#include <unordered_map>

namespace seedloom {

namespace {

// Axis of the outward direction, its sign, and the tag of that side. u × v points outward.
struct Side {
    int axis, u, v;
    bool high;
    const char* tag;
};
constexpr std::array<Side, 6> kSides{{{0, 1, 2, true, "right"},
                                      {0, 2, 1, false, "left"},
                                      {1, 2, 0, true, "top"},
                                      {1, 0, 2, false, "bottom"},
                                      {2, 0, 1, true, "front"},
                                      {2, 1, 0, false, "back"}}};

class BoxBuilder {
public:
    BoxBuilder(Vec3 size, std::array<std::uint64_t, 3> cells, Vec3 origin) : size_(size), cells_(cells), origin_(origin) {}

    void addSide(const Side& side, int number) {
        std::array<std::uint64_t, 3> at{};
        at[side.axis] = side.high ? cells_[side.axis] : 0;
        for (std::uint64_t j = 0; j < cells_[side.v]; ++j)
            for (std::uint64_t i = 0; i < cells_[side.u]; ++i) {
                for (auto [du, dv] : {std::pair{0, 0}, {1, 0}, {1, 1}, {0, 1}}) {
                    at[side.u] = i + std::uint64_t(du);
                    at[side.v] = j + std::uint64_t(dv);
                    corners_.push_back(point(at));
                    uv_.push_back({float(at[side.u]) / float(cells_[side.u]), float(at[side.v]) / float(cells_[side.v])});
                }
                start_.push_back(static_cast<Index>(corners_.size()));
                side_.push_back(number);
            }
    }

    Geometry finish() {
        const std::size_t count = points_.size();
        Geometry out(std::move(points_), Topology(count, std::move(start_), std::move(corners_), {0}, {}, {}));
        out.setColumn(Element::corner, "uv", Column(std::move(uv_)));
        for (std::size_t s = 0; s < kSides.size(); ++s) {
            std::vector<std::uint8_t> tag(side_.size());
            for (std::size_t f = 0; f < tag.size(); ++f) tag[f] = side_[f] == static_cast<int>(s);
            out.setColumn(Element::face, kSides[s].tag, Column(std::move(tag)));
        }
        return out;
    }

private:
    /// Lattice points on edges and corners belong to several sides: each is made once.
    Index point(const std::array<std::uint64_t, 3>& at) {
        const std::uint64_t key = (at[0] * (cells_[1] + 1) + at[1]) * (cells_[2] + 1) + at[2];
        const auto [it, isNew] = number_.try_emplace(key, static_cast<Index>(points_.size()));
        if (isNew) {
            Vec3 p;
            for (int c = 0; c < 3; ++c) p[c] = origin_[c] + size_[c] * (float(at[c]) / float(cells_[c]));
            points_.push_back(p);
        }
        return it->second;
    }

    Vec3 size_;
    std::array<std::uint64_t, 3> cells_;
    Vec3 origin_;
    std::unordered_map<std::uint64_t, Index> number_;
    std::vector<Vec3> points_;
    std::vector<Index> start_{0}, corners_;
    std::vector<Vec2> uv_;
    std::vector<int> side_;
};

Geometry computeBox(OperatorCall& call) {
    const Vec3 size = call.vec3("size"), cells = call.vec3("cells");
    const std::string anchor = call.choice("anchor");
    const double x = std::round(double(cells.x)), y = std::round(double(cells.y)), z = std::round(double(cells.z));
    call.run().require(8 * (x * y + y * z + z * x), "corners");
    Vec3 origin = size * -0.5f;
    if (anchor == "bottom") origin.y = 0;
    if (anchor == "top") origin.y = -size.y;
    if (anchor == "corner") origin = {};
    BoxBuilder builder(size, {std::uint64_t(x), std::uint64_t(y), std::uint64_t(z)}, origin);
    for (std::size_t s = 0; s < kSides.size(); ++s) {
        call.run().poll();
        builder.addSide(kSides[s], static_cast<int>(s));
    }
    return builder.finish();
}

}  // namespace

OperatorSpec boxOperator() {
    OperatorSpec spec;
    spec.id = "box";
    spec.order = 60;
    spec.label = "Box";
    spec.family = Family::make;
    spec.sentence = "Makes a closed box with four-sided faces and a tag for every side.";
    spec.help = "Tags: right (+x), left, top (+y), bottom, front (+z), back. uv runs from 0 to 1 over each side.";
    spec.synonyms = {"cube", "block", "crate", "cuboid", "brick"};
    spec.settings = {
        vec3Setting("size", "Size", Unit::metre, {1, 1, 1}).within(1e-6, 1e6).helped("Width, height and depth."),
        vec3Setting("cells", "Cells", Unit::none, {1, 1, 1}).atLeast(1).helped("How many faces along x, y and z."),
        choiceSetting("anchor", "Anchor", {"middle", "bottom", "top", "corner"}, "middle").helped("Which part of the box lies at the origin."),
    };
    spec.compute = computeBox;
    return spec;
}

}  // namespace seedloom
