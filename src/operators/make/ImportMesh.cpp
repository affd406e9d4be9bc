// Method: readers of src/meshes: glTF 2.0 (Khronos), OBJ, PLY, STL, 3MF core specification (lib3mf).
#include "geometry/Measures.h"
#include "geometry/PartTaker.h"
#include "geometry/Weld.h"
#include "meshes/MeshFile.h"
#include "operators/OperatorCall.h"
#include "operators/make/ImportFindings.h"
#include "surface/LooseParts.h"
#include "surface/Orient.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// How large the file's unit becomes, so that the model gets the wanted size.
double scaleOf(OperatorCall& call, const Geometry& upright) {
    const std::string by = call.choice("size_by");
    if (by == "scale") return call.number("scale");
    const Vec3 size = boundsOf(upright).size();
    const auto own = double(by == "height" ? size.y : std::max({size.x, size.y, size.z}));
    if (own > 0) return call.number("size") / own;
    call.tell(NoticeLevel::warning, "import.no_size",
              fmt::format("The model has no {} that could be scaled; it stays as large as it is.", by == "height" ? "height" : "size"), "size_by");
    return 1;
}

Geometry upright(OperatorCall& call, Geometry g) {
    const std::string up = call.choice("up");
    if (up != "y") g = transformed(g, turnUpright(axisOfUp(up)));
    const auto scale = float(scaleOf(call, g));
    if (!(scale > 0) || !std::isfinite(scale)) call.fail("import.scale", "The wanted size is too far from the file's. Choose another one.", "size");
    Affine map;
    map.x *= scale, map.y *= scale, map.z *= scale;
    return scale == 1 ? g : transformed(g, map);
}

Geometry welded(OperatorCall& call, const Geometry& g) {
    if (!call.flag("weld")) return g;
    const WeldResult joined = weld(g, call.number("weld_distance"));
    if (joined.joinedPoints > 0)
        call.tell(NoticeLevel::info, "import.welded", fmt::format("{} points lay on top of others and were joined.", joined.joinedPoints), "weld");
    return joined.geometry;
}

Geometry withoutLooseParts(OperatorCall& call, const Geometry& g) {
    const double share = call.number("smallest_part");
    const LooseParts loose = share > 0 ? looseParts(g, share) : LooseParts{};
    if (loose.parts == 0) return g;
    call.tell(NoticeLevel::info, "import.left_out", fmt::format("{} small parts are left out.", loose.parts), "smallest_part");
    PartTaker taker(g);
    for (Index f = 0; f < g.faceCount(); ++f)
        if (!loose.small[f]) taker.addFace(f);
    for (Index c = 0; c < g.curveCount(); ++c) taker.addCurve(c, g.topology().curve(c));
    return taker.take();
}

Geometry wound(OperatorCall& call, Geometry g, const std::string& winding) {
    if (winding == "flip") return flipped(g, std::vector<std::uint8_t>(g.faceCount(), 1));
    if (winding == "keep" || g.faceCount() == 0) return g;
    bool oneSided = false;
    const auto turn = facesToTurn(g, call.run(), &oneSided, winding == "outwards" ? OpenParts::outOfHollow : OpenParts::asMostDid);
    const auto count = std::count(turn.begin(), turn.end(), 1);
    if (oneSided) call.tell(NoticeLevel::warning, "orient.one_sided", "A part has only one side: no winding is consistent there.", "winding");
    if (count == 0) return g;
    call.tell(NoticeLevel::info, "import.turned", fmt::format("{} of {} faces looked the wrong way and were turned over.", count, g.faceCount()), "winding");
    return flipped(g, turn);
}

Geometry placed(OperatorCall& call, const Geometry& g) {
    const Bounds bounds = boundsOf(g);
    if (call.choice("place") == "keep" || bounds.empty) return g;
    Affine map;
    map.move = {-bounds.centre().x, -bounds.min.y, -bounds.centre().z};
    return transformed(g, map);
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
    g = welded(call, upright(call, std::move(g)));
    call.run().poll();
    call.run().setProgress(0.7f);
    g = withoutLooseParts(call, g);
    g = wound(call, std::move(g), call.choice("winding"));
    call.run().setProgress(0.9f);
    g = placed(call, g);
    tellImported(call, g);
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
        "is read again when it changes. Up, size, welding, small parts, winding and place are settings, so nothing of the file is lost and all can be changed "
        "later. What a scan needs is offered beside them, and Make it clean does all of it at once. Paths are taken from the folder of the loom.";
    spec.synonyms = {"load", "file", "scan", "clean", "open", "read", "obj", "stl", "ply", "gltf", "3mf"};
    spec.settings = {
        fileSetting("file", "File").helped("The mesh file."),
        choiceSetting("up", "Up", {"y", "z", "x", "-y", "-z", "-x"}, "y").helped("Which axis of the file points up."),
        choiceSetting("size_by", "Size by", {"scale", "height", "longest side"}, "scale").helped("A factor, or how large the model is to become."),
        numberSetting("scale", "Scale", Unit::none, 1)
            .within(1e-9, 1e9)
            .slider(0.001, 10)
            .helped("Metres for one unit of the file: 0.001 for millimetres.")
            .when("size_by", {"scale"}),
        numberSetting("size", "Size", Unit::metre, 1)
            .within(1e-6, 1e6)
            .slider(0.01, 5)
            .helped("Its height, or its longest side, when it stands upright.")
            .when("size_by", {"height", "longest side"}),
        choiceSetting("place", "Place", {"keep", "on the ground"}, "keep")
            .helped("Where the file has it, or in the middle of the ground with its lowest point on it."),
        choiceSetting("winding", "Winding", {"keep", "make consistent", "outwards", "flip"}, "keep")
            .helped("What to do about faces that look the wrong way; outwards turns parts with holes by what they enclose."),
        numberSetting("smallest_part", "Smallest part", Unit::none, 0)
            .within(0, 1)
            .slider(0, 0.5)
            .helped("Loose parts smaller than this part of the largest are left out; 0 keeps all."),
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
