#include "breaking/FaceKind.h"

namespace seedloom {

namespace {

struct Tags {
    const std::vector<std::uint8_t>*crumb, *rim, *inside;
    explicit Tags(const Geometry& g)
        : crumb(g.values<std::uint8_t>(Element::face, "crumb")), rim(g.values<std::uint8_t>(Element::face, "rim")),
          inside(g.values<std::uint8_t>(Element::face, "inside")) {}
    FaceKind of(Index face) const {
        if (crumb && (*crumb)[face]) return FaceKind::crumb;
        if (rim && (*rim)[face]) return FaceKind::rim;
        return inside && (*inside)[face] ? FaceKind::inside : FaceKind::skin;
    }
};

}  // namespace

FaceKind faceKind(const Geometry& g, Index face) { return Tags(g).of(face); }

std::vector<Index> facesOfKind(const Geometry& g, FaceKind kind) {
    const Tags tags(g);
    std::vector<Index> out;
    for (Index f = 0; f < g.faceCount(); ++f)
        if (tags.of(f) == kind) out.push_back(f);
    return out;
}

std::string formulaOfKind(const Geometry& g, FaceKind kind) {
    const std::pair<const char*, FaceKind> tags[] = {{"crumb", FaceKind::crumb}, {"rim", FaceKind::rim}, {"inside", FaceKind::inside}};
    std::string out;
    for (const auto& [tag, of] : tags) {
        if (!g.values<std::uint8_t>(Element::face, tag)) continue;
        out += (out.empty() ? "" : " && ") + std::string(tag) + (of == kind ? " > 0" : " == 0");
        if (of == kind) break;
    }
    return out;
}

bool hasKinds(const Geometry& g) {
    const Tags tags(g);
    for (Index f = 1; f < g.faceCount(); ++f)
        if (tags.of(f) != tags.of(0)) return true;
    return false;
}

}  // namespace seedloom
