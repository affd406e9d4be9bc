// Method: own.
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

/// Rings of points from the bottom up; an end of no radius is one point.
class CylinderBuilder {
public:
    CylinderBuilder(int sides, int rings) : sides_(Index(sides)), rings_(Index(rings)) {}

    void addRing(double radius, double y) {
        ringStart_.push_back(Index(points_.size()));
        pointed_.push_back(radius == 0);
        for (Index s = 0; s < (radius == 0 ? 1 : sides_); ++s) {
            const double a = 2 * kPi * s / sides_;
            points_.push_back({float(radius * std::sin(a)), float(y), float(radius * std::cos(a))});
        }
    }
    void addSides() {
        for (Index r = 0; r < rings_; ++r)
            for (Index s = 0; s < sides_; ++s) {
                corner(r, s, s);
                if (!pointed_[r]) corner(r, s + 1, s + 1);
                corner(r + 1, s + 1, pointed_[r + 1] ? s : s + 1);
                if (!pointed_[r + 1]) corner(r + 1, s, s);
                endFace(0);
            }
    }
    /// A flat face over the first or the last ring, seen from outside.
    void addCap(bool top) {
        const Index ring = top ? rings_ : 0;
        if (pointed_[ring]) return;
        for (Index i = 0; i < sides_; ++i) {
            const Index s = top ? i : sides_ - 1 - i;
            const double a = 2 * kPi * s / sides_;
            corners_.push_back(ringStart_[ring] + s);
            uv_.push_back({float(0.5 + std::sin(a) / 2), float(0.5 - (top ? 1 : -1) * std::cos(a) / 2)});
        }
        endFace(top ? 2 : 1);
    }
    Geometry finish() {
        const std::size_t count = points_.size();
        Geometry out(std::move(points_), Topology(count, std::move(start_), std::move(corners_), {0}, {}, {}));
        out.setColumn(Element::corner, "uv", Column(std::move(uv_)));
        constexpr std::array<const char*, 3> tags{"side", "bottom", "top"};
        for (std::size_t t = 0; t < tags.size(); ++t) {
            std::vector<std::uint8_t> tag(part_.size());
            for (std::size_t f = 0; f < tag.size(); ++f) tag[f] = part_[f] == int(t);
            out.setColumn(Element::face, tags[t], Column(std::move(tag)));
        }
        return out;
    }

private:
    void corner(Index ring, Index side, Index u) {
        corners_.push_back(ringStart_[ring] + (pointed_[ring] ? 0 : side % sides_));
        uv_.push_back({(float(u) + (pointed_[ring] ? 0.5f : 0.0f)) / float(sides_), float(ring) / float(rings_)});
    }
    void endFace(int part) {
        start_.push_back(Index(corners_.size()));
        part_.push_back(part);
    }
    Index sides_, rings_;
    std::vector<Vec3> points_;
    std::vector<Index> ringStart_, start_{0}, corners_;
    std::vector<bool> pointed_;
    std::vector<Vec2> uv_;
    std::vector<int> part_;
};

Geometry computeCylinder(OperatorCall& call) {
    const double low = call.number("radius_bottom"), high = call.number("radius_top"), height = call.number("height");
    const int sides = call.integer("sides"), rings = call.integer("rings");
    call.run().require(4.0 * sides * rings, "corners");
    if (low == 0 && high == 0) call.fail("cylinder.radius", "Both radii are 0, so there is nothing to make. Give one of them a width.", "radius_top");
    const std::string anchor = call.choice("anchor");
    const double foot = anchor == "middle" ? -height / 2 : anchor == "top" ? -height : 0;
    CylinderBuilder builder(sides, rings);
    for (int r = 0; r <= rings; ++r) {
        const double t = double(r) / rings;
        builder.addRing(r == rings ? high : low + (high - low) * t, foot + height * t);
    }
    builder.addSides();
    if (call.flag("bottom")) builder.addCap(false);
    if (call.flag("top")) builder.addCap(true);
    return builder.finish();
}

}  // namespace

OperatorSpec cylinderOperator() {
    OperatorSpec spec;
    spec.id = "cylinder";
    spec.order = 70;
    spec.label = "Cylinder";
    spec.family = Family::make;
    spec.sentence = "Makes a cylinder, a cone, or anything between, standing on the ground.";
    spec.help = "An end of radius 0 is one point. Faces are tagged side, bottom and top. uv: x around, y up; the ends fill the whole square.";
    spec.synonyms = {"tube", "cone", "pipe", "barrel", "post", "disc", "pile"};
    spec.settings = {
        numberSetting("radius_bottom", "Radius below", Unit::metre, 0.5).within(0, 1e6).slider(0, 2).helped("Of the lower end."),
        numberSetting("radius_top", "Radius above", Unit::metre, 0.5).within(0, 1e6).slider(0, 2).helped("Of the upper end; 0 makes a cone."),
        numberSetting("height", "Height", Unit::metre, 1).within(1e-6, 1e6).slider(0.05, 5).helped("From end to end."),
        integerSetting("sides", "Sides", 32).atLeast(3).slider(3, 128).helped("Faces around."),
        integerSetting("rings", "Rings", 1).atLeast(1).slider(1, 64).helped("Bands of faces from below to above."),
        flagSetting("bottom", "Closed below", true).helped("Closes the lower end with a face."),
        flagSetting("top", "Closed above", true).helped("Closes the upper end with a face."),
        choiceSetting("anchor", "Anchor", {"bottom", "middle", "top"}, "bottom").helped("Which height lies at the origin."),
    };
    spec.compute = computeCylinder;
    return spec;
}

}  // namespace seedloom
