// Method: own.
#include "meshes/MeshFile.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry standIn(const std::string& kind) {
    if (kind == "curve") return curveThrough({{-1, 0, 0}, {-0.4f, 0, 0.15f}, {0.4f, 0, -0.15f}, {1, 0, 0}}, false);
    if (kind == "points") return Geometry({{-0.8f, 0, 0}, {-0.3f, 0, 0.4f}, {0, 0, -0.3f}, {0.4f, 0, 0.2f}, {0.8f, 0, -0.1f}});
    const Vec3 low{-0.5f, 0, -0.5f}, high{0.5f, 1, 0.5f};
    std::vector<Vec3> corners;
    for (int i = 0; i < 8; ++i) corners.push_back({i & 1 ? high.x : low.x, i & 2 ? high.y : low.y, i & 4 ? high.z : low.z});
    return Geometry(std::move(corners),
                    Topology(8, {0, 4, 8, 12, 16, 20, 24}, {0, 2, 3, 1, 4, 5, 7, 6, 0, 1, 5, 4, 2, 6, 7, 3, 0, 4, 6, 2, 1, 3, 7, 5}, {0}, {}, {}));
}

std::size_t countOf(const Geometry& geometry, const std::string& kind) {
    if (kind == "curve") return geometry.curveCount();
    return kind == "mesh" ? geometry.faceCount() : geometry.pointCount();
}

std::string whatIsIn(const Geometry& geometry) {
    if (geometry.faceCount() > 0) return "a mesh";
    if (geometry.curveCount() > 0) return "curves";
    return geometry.pointCount() > 0 ? "points" : "nothing";
}

Geometry computeInputGeometry(OperatorCall& call) {
    const std::string sample = call.text("sample"), kind = call.choice("kind");
    if (sample.empty()) return standIn(kind);
    const auto read = readMesh(call.file("sample"), call.files());
    if (!read) call.fail(read.error(), "sample");
    if (countOf(*read, kind) == 0)
        call.tell(NoticeLevel::warning, "input.kind",
                  fmt::format("'{}' holds {} where {} are asked for. Take another file, or another kind.", sample, whatIsIn(*read),
                              kind == "curve"  ? "curves"
                              : kind == "mesh" ? "faces"
                                               : "points"),
                  "sample");
    return *read;
}

}  // namespace

OperatorSpec inputGeometryOperator() {
    OperatorSpec spec;
    spec.id = "input_geometry";
    spec.order = 150;
    spec.label = "Input geometry";
    spec.family = Family::make;
    spec.sentence = "Stands for a curve, mesh or points that whoever uses the asset plugs in.";
    spec.help =
        "While the asset is being made a sample is shown: a simple stand-in of the kind, or a mesh file (curves are read from .obj and .ply). The name becomes "
        "an input "
        "of the asset. In Vary a list of files can take its place.";
    spec.synonyms = {"plug", "port", "external", "parameter", "socket", "guide"};
    spec.settings = {
        textSetting("name", "Name", "guide").helped("Of the asset's input."),
        choiceSetting("kind", "Kind", {"curve", "mesh", "points"}, "curve").helped("What is expected to be plugged in."),
        fileSetting("sample", "Sample").helped("A mesh file that stands in while designing; empty takes a simple shape of the kind."),
    };
    spec.compute = computeInputGeometry;
    return spec;
}

}  // namespace seedloom
