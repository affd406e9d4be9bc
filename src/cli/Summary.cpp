#include "cli/Summary.h"

#include "breaking/PieceCheckup.h"
#include "geometry/Bake.h"
#include "geometry/Digest.h"
#include "geometry/Measures.h"
#include "geometry/SelfIntersections.h"
#include "scatter/CopyCheckup.h"
#include "scatter/CopyOverlap.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// JSON has no NaN or infinity.
Json number(double v) { return std::isfinite(v) ? Json(v) : Json(); }

Json extremes(const Column& column, bool largest) {
    const int components = componentCount(column.type());
    Json out = Json::array();
    for (int c = 0; c < components; ++c) {
        double found = NAN;
        for (std::size_t i = 0; i < column.size(); ++i) {
            const double v = column.component(i, c);
            if (std::isfinite(v) && !(largest ? v <= found : v >= found)) found = v;
        }
        out.push_back(number(found));
    }
    return components == 1 ? out[0] : components == 0 ? Json() : out;
}

Json attributesJson(const Geometry& geometry) {
    Json out = Json::array();
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            out.push_back({{"name", name},
                           {"element", elementName(element)},
                           {"type", typeName(column.type())},
                           {"min", extremes(column, false)},
                           {"max", extremes(column, true)}});
    return out;
}

/// What the costly figures may take unasked: about a third of a second for each on a slow machine.
constexpr std::uint64_t kMostTriangles = 100'000;
constexpr std::size_t kMostCopies = 10'000;

class CheckupFigures {
public:
    CheckupFigures(const Geometry& geometry, const Geometry* baked, std::uint64_t triangles, bool everything, const RunContext& run)
        : geometry_(geometry), baked_(baked), apart_(baked && inPieces(*baked)), triangles_(triangles), everything_(everything), run_(run) {}

    Json json() {
        const Checkup c = baked_ ? checkupOf(*baked_) : checkupUnbaked(geometry_, run_);
        run_.poll();
        Json out{{"closed", c.closed},
                 {"manifold", c.manifold},
                 {"consistent_winding", c.consistentWinding},
                 {"open_edges", c.openEdges},
                 {"nonmanifold_edges", c.nonmanifoldEdges},
                 {"nonmanifold_points", c.nonmanifoldPoints},
                 {"degenerate_faces", c.degenerateFaces},
                 {"doubled_points", apart_ ? doubledInPieces(*baked_).size() : c.doubledPoints},
                 {"nonfinite_points", c.nonFinitePoints},
                 {"self_intersections", nullptr},
                 {"touching_pieces", nullptr},
                 {"area", number(c.area)},
                 {"volume", c.closed ? number(c.volume) : Json()}};
        addCrossings(out);
        if (geometry_.copyCount() > 0) addOverlaps(out);
        if (!left_.empty()) out["not_counted"] = left_;
        return out;
    }

private:
    void addCrossings(Json& out) {
        // Of copies that are not baked, each shape is looked at once.
        std::uint64_t looked = triangles_;
        if (!baked_ && geometry_.copies()) {
            looked = triangleCount(geometry_);
            for (const auto& shape : geometry_.copies()->shapes) looked += triangleCount(*shape);
        }
        if (!everything_ && looked > kMostTriangles) {
            left("self_intersections"), left("touching_pieces");
        } else if (baked_) {
            const Crossings found = crossingsOf(*baked_);
            out["self_intersections"] = found.pairs;
            if (!apart_) out["touching_pieces"] = found.touching;  // pieces that fit together all do
        } else {
            out["self_intersections"] = intersectionsUnbaked(geometry_);
        }
    }

    /// Of copies only: how many pairs stand in each other, by their faces, or by their boxes where there are very many; and how many lie on others.
    void addOverlaps(Json& out) {
        const bool byFaces = geometry_.copyCount() <= kMostByFaces;
        out["overlap_by"] = byFaces ? "meshes" : "bounds";
        if (!everything_ && geometry_.copyCount() > kMostCopies) {
            out["overlapping_copies"] = left("overlapping_copies");
            out["doubled_copies"] = left("doubled_copies");
            return;
        }
        const CopyOverlaps found = overlapsOf(geometry_, byFaces ? OverlapBy::meshes : OverlapBy::bounds, run_);
        out["overlapping_copies"] = found.cut ? found.near : found.pairs.size();
        out["doubled_copies"] = found.doubled.size();
    }
    static std::uint64_t triangleCount(const Geometry& g) { return g.cornerCount() > 2 * g.faceCount() ? g.cornerCount() - 2 * g.faceCount() : 0; }
    Json left(const char* figure) {
        left_.push_back(figure);
        return nullptr;
    }

    const Geometry& geometry_;
    const Geometry* baked_;
    bool apart_;  ///< pieces that fit together have places and faces in common
    std::uint64_t triangles_;
    bool everything_;
    const RunContext& run_;
    Json left_ = Json::array();
};

}  // namespace

Json summaryOf(const Geometry& geometry, bool everything, const RunContext& run) {
    const ElementCounts counts = bakedCounts(geometry);
    // Copies are measured from their shapes where they are many: baking a light scene would take longer than making it.
    const bool few = everything ? bakesEasily(geometry) : geometry.copyCount() <= kMostCopies && bakesEasily(geometry);
    const std::optional<Geometry> baked = few ? std::optional(bakeCopies(geometry)) : std::nullopt;
    run.poll();
    const Bounds bounds = boundsOf(geometry);
    const auto list = [](Vec3 v) { return Json::array({v.x, v.y, v.z}); };
    return {{"counts",
             {{"points", counts.points},
              {"corners", counts.corners},
              {"faces", counts.faces},
              {"triangles", counts.triangles},
              {"curves", counts.curves},
              {"copies", geometry.copyCount()},
              {"pieces", bakedPieces(geometry)}}},
            {"bounds", {{"min", list(bounds.min)}, {"max", list(bounds.max)}}},
            {"attributes", attributesJson(baked ? *baked : geometry)},
            {"checkup", CheckupFigures(geometry, baked ? &*baked : nullptr, counts.triangles, everything, run).json()},
            {"digest", digestOf(geometry).hex()}};
}

namespace {

Json fixJson(const NoticeFix& fix) {
    switch (fix.kind) {
        case NoticeFix::Kind::set: return {{"do", "set"}, {"label", fix.label}, {"setting", fix.setting}, {"value", fix.value}};
        case NoticeFix::Kind::add: return {{"do", "add"}, {"label", fix.label}, {"op", fix.op}, {"settings", fix.settings}};
        case NoticeFix::Kind::insert: return {{"do", "insert"}, {"label", fix.label}, {"op", fix.op}, {"settings", fix.settings}, {"port", fix.port}};
        case NoticeFix::Kind::link: return {{"do", "link"}, {"label", fix.label}, {"from", fix.from}, {"port", fix.port}};
        case NoticeFix::Kind::clean: return {{"do", "clean"}, {"label", fix.label}, {"settings", fix.settings}, {"value", fix.value}};
        case NoticeFix::Kind::ask: return {{"do", "ask"}, {"label", fix.label}, {"setting", fix.setting}};
        case NoticeFix::Kind::show: break;
    }
    Json show{{"do", "show"}, {"label", fix.label}, {"element", elementName(fix.element)}, {"rows", fix.rows}};
    if (!fix.port.empty()) show["port"] = fix.port;
    return show;
}

}  // namespace

Json noticesJson(const std::vector<Notice>& notices) {
    Json out = Json::array();
    for (const Notice& n : notices) {
        Json notice{{"level", levelName(n.level)}, {"node", n.node}, {"code", n.code}, {"text", n.text}};
        if (!n.setting.empty()) notice["setting"] = n.setting;
        for (const NoticeFix& fix : n.fixes) notice["fixes"].push_back(fixJson(fix));
        out.push_back(std::move(notice));
    }
    return out;
}

std::vector<std::string> soundnessFindings(const Json& c) {
    std::vector<std::string> out;
    const auto counted = [&](const char* key, const char* what) {
        if (const auto n = c[key].is_null() ? 0 : c[key].get<std::size_t>(); n > 0) out.push_back(fmt::format("{} {}", n, what));
    };
    if (!c["closed"].get<bool>() && c["open_edges"] == 0) out.push_back("there are no faces");
    counted("open_edges", "open edges");
    counted("nonmanifold_edges", "edges with more than two faces");
    counted("nonmanifold_points", "points where separate parts only touch");
    if (c["closed"].get<bool>() && !c["consistent_winding"].get<bool>()) out.push_back("neighbouring faces look to opposite sides");
    counted("degenerate_faces", "faces without area");
    counted("doubled_points", "doubled points");
    counted("nonfinite_points", "points that are nowhere (not a number)");
    counted("self_intersections", "pairs of faces that cross each other");
    if (c.contains("overlapping_copies"))
        counted("overlapping_copies", "pairs of copies that stand in each other"), counted("doubled_copies", "copies on top of others");
    if (c["volume"].is_number() && c["volume"].get<double>() <= 0) out.push_back("the solid is inside out or has no volume");
    return out;
}

std::string summaryText(const Json& s) {
    const Json &n = s["counts"], &b = s["bounds"], &c = s["checkup"];
    std::string out =
        fmt::format("{} points, {} faces, {} triangles, {} curves, {} copies, {} pieces\n", n["points"].get<std::size_t>(), n["faces"].get<std::size_t>(),
                    n["triangles"].get<std::size_t>(), n["curves"].get<std::size_t>(), n["copies"].get<std::size_t>(), n["pieces"].get<std::size_t>());
    const auto size = [&](int i) { return b["max"][std::size_t(i)].get<double>() - b["min"][std::size_t(i)].get<double>(); };
    out += fmt::format("size {:.4g} × {:.4g} × {:.4g} m\n", size(0), size(1), size(2));
    const auto findings = soundnessFindings(c);
    out += findings.empty() ? c.contains("not_counted") ? "checkup: closed and sound as far as looked; check looks at all\n" : "checkup: closed and sound\n"
                            : "checkup:";
    for (std::size_t i = 0; i < findings.size(); ++i) out += (i ? "; " : " ") + findings[i] + (i + 1 == findings.size() ? "\n" : "");
    if (c["touching_pieces"].is_number() && c["touching_pieces"] > 0)
        out += fmt::format("{} pairs of pieces touch or stand in each other\n", c["touching_pieces"].get<std::size_t>());
    out += fmt::format("area {:.6g} m²", c["area"].is_number() ? c["area"].get<double>() : 0.0);
    if (c["volume"].is_number()) out += fmt::format(", volume {:.6g} m³", c["volume"].get<double>());
    out += "\n";
    for (const Json& a : s["attributes"])
        out += fmt::format("  {} {} {}\n", a["element"].get<std::string>(), a["type"].get<std::string>(), a["name"].get<std::string>());
    return out + fmt::format("digest {}\n", s["digest"].get<std::string>());
}

}  // namespace seedloom
