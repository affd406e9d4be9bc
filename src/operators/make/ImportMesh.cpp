// Method: readers of src/meshes: glTF 2.0 (Khronos), OBJ, PLY, STL, 3MF core specification (lib3mf).
#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "meshes/MeshFile.h"
#include "operators/OperatorCall.h"
#include "surface/Orient.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Turns `up` of the file onto +Y, and scales.
Affine mapFor(const std::string& up, float scale) {
    Affine map;
    if (up == "z") map = {{1, 0, 0}, {0, 0, -1}, {0, 1, 0}, {}};
    if (up == "x") map = {{0, 1, 0}, {-1, 0, 0}, {0, 0, 1}, {}};
    if (up == "-y") map = {{1, 0, 0}, {0, -1, 0}, {0, 0, -1}, {}};
    map.x *= scale, map.y *= scale, map.z *= scale;
    return map;
}

Geometry wound(OperatorCall& call, Geometry g, const std::string& winding) {
    if (winding == "flip") return flipped(g, std::vector<std::uint8_t>(g.faceCount(), 1));
    if (winding != "make consistent" || g.faceCount() == 0) return g;
    bool oneSided = false;
    const auto turn = facesToTurn(g, call.run(), &oneSided);
    const auto count = std::count(turn.begin(), turn.end(), 1);
    if (oneSided) call.tell(NoticeLevel::warning, "orient.one_sided", "A part has only one side: no winding is consistent there.", "winding");
    if (count == 0) return g;
    call.tell(NoticeLevel::info, "import.turned", fmt::format("{} of {} faces looked the wrong way and were turned over.", count, g.faceCount()), "winding");
    return flipped(g, turn);
}

/// What there is, for people: counts, size, holes.
void tellFound(OperatorCall& call, const Geometry& g) {
    if (g.empty())
        return call.tell(NoticeLevel::warning, "import.empty",
                         "The file was read, but holds no faces, curves or points. Check that its mesh was chosen when it was exported.", "file");
    const Vec3 size = boundsOf(g).size();
    std::string text = fmt::format("{} points, {} faces, {:.3g} × {:.3g} × {:.3g} m", g.pointCount(), g.faceCount(), size.x, size.y, size.z);
    if (g.curveCount() > 0) text += fmt::format(", {} curves", g.curveCount());
    const auto& counts = g.topology().edges().faceCount;
    const auto open = std::count(counts.begin(), counts.end(), 1u);
    if (g.faceCount() > 0) text += open == 0 ? ", closed" : fmt::format(", {} open edges", open);
    call.tell(NoticeLevel::info, "import.found", text + ".");
    const float most = std::max({size.x, size.y, size.z});
    if (most > 1000 || (most > 0 && most < 0.001f))
        call.tell(NoticeLevel::warning, "import.size",
                  fmt::format(
                      "The model is {:.3g} m large. If the file is not in metres, set Scale: 0.001 for millimetres, 0.01 for centimetres, 1000 for kilometres.",
                      most),
                  "scale");
}

Geometry computeImportMesh(OperatorCall& call) {
    if (call.text("file").empty()) call.fail("input.missing", "Choose a file to import.", "file");
    const auto read = readMesh(call.file("file"), call.files());
    if (!read && read.error().code == "file.read") call.fail("file.read", read.error().text + " Choose the file again.", "file");
    if (!read) call.fail(read.error(), "file");
    call.run().setProgress(0.5f);
    Geometry g = *read;
    call.run().require(double(g.cornerCount() + g.pointCount()), "points and corners");
    call.run().poll();
    const std::string up = call.choice("up");
    const auto scale = float(call.number("scale"));
    if (up != "y" || scale != 1) g = transformed(g, mapFor(up, scale));
    if (call.flag("weld")) {
        const WeldResult welded = weld(g, call.number("weld_distance"));
        if (welded.joinedPoints > 0)
            call.tell(NoticeLevel::info, "import.welded", fmt::format("{} points lay on top of others and were joined.", welded.joinedPoints), "weld");
        g = welded.geometry;
    }
    call.run().poll();
    call.run().setProgress(0.8f);
    g = wound(call, std::move(g), call.choice("winding"));
    tellFound(call, g);
    return g;
}

}  // namespace

OperatorSpec importMeshOperator() {
    OperatorSpec spec;
    spec.id = "import_mesh";
    spec.order = 140;
    spec.label = "Import mesh";
    spec.family = Family::make;
    spec.sentence = "Reads a mesh file, and says how large it is and what is wrong with it.";
    spec.help =
        "Formats: .glb .gltf .obj .ply .stl .3mf. A 3MF file names its unit and up axis, and comes in right; all others are taken as metres, +Y up. The file "
        "is read again when it changes. Up, scale, welding and winding are settings, so nothing of the file is lost and all can be changed later. Paths are "
        "taken from the folder of the loom.";
    spec.synonyms = {"load", "file", "scan", "open", "read", "obj", "stl", "ply", "gltf", "3mf"};
    spec.settings = {
        fileSetting("file", "File").helped("The mesh file."),
        choiceSetting("up", "Up", {"y", "z", "x", "-y"}, "y").helped("Which axis of the file points up."),
        numberSetting("scale", "Scale", Unit::none, 1).within(1e-9, 1e9).slider(0.001, 10).helped("Metres for one unit of the file: 0.001 for millimetres."),
        choiceSetting("winding", "Winding", {"keep", "make consistent", "flip"}, "keep").helped("What to do about faces that look the wrong way."),
        flagSetting("weld", "Weld", true).helped("Joins points that lie on top of each other."),
        numberSetting("weld_distance", "Weld distance", Unit::metre, 0)
            .within(0, 1e6)
            .slider(0, 0.01)
            .helped("Points nearer than this are joined; 0 joins only those at the very same place.")
            .when("weld", {"true"}),
    };
    spec.compute = computeImportMesh;
    return spec;
}

}  // namespace seedloom
