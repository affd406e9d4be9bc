// glTF 2.0 (Khronos glTF 2.0 specification; chapter 3.11, "Animations").
#include "meshes/GltfAnimation.h"

#include "geometry/Bake.h"
#include "geometry/PartTaker.h"
#include "meshes/GltfFile.h"

#include <map>

namespace seedloom {

namespace {

class AnimationWriter {
public:
    AnimationWriter(const RigidMoves& moves, double secondsPerFrame) : moves_(moves), parts_(geometries(moves)), file_(listOf(parts_)) {
        if (moves.anyMoves()) addTimes(secondsPerFrame);
        for (std::size_t i = 0; i < moves.parts().size(); ++i) addPart(moves.parts()[i], parts_[i]);
        addRest(parts_[moves.parts().size()]);
        if (moves.first().copies()) addCopies();
        if (!channels_.empty()) file_.addAnimation({{"name", "frames"}, {"samplers", samplers_}, {"channels", channels_}});
    }
    std::string binary() const { return file_.binary(); }

private:
    /// Parts about their centres, then what has no faces, then the shapes of the copies, with one list of materials for all.
    static std::vector<Geometry> geometries(const RigidMoves& moves) {
        std::vector<Geometry> out;
        PartTaker taker(moves.first());
        for (const MovingPart& part : moves.parts()) {
            taker.startPart();
            for (const Index face : part.faces) taker.addFace(face);
            Geometry one = taker.take();
            std::vector<Vec3> about = one.positions();
            for (Vec3& p : about) p -= part.centre;
            one.setPositions(std::move(about));
            out.push_back(std::move(one));
        }
        out.push_back(withoutFaces(moves.first()));
        if (moves.first().copies())
            for (const auto& shape : moves.first().copies()->shapes) out.push_back(bakeCopies(*shape));
        return withSharedMaterials(out);
    }
    static Geometry withoutFaces(const Geometry& g) {
        PartTaker taker(g);
        taker.startPart();
        for (Index c = 0; c < g.curveCount(); ++c) taker.addCurve(c, g.topology().curve(c));
        if (g.faceCount() == 0 && g.curveCount() == 0)
            for (Index p = 0; p < g.pointCount(); ++p) taker.addPoint(p);
        return taker.take();
    }
    static std::vector<Material> listOf(const std::vector<Geometry>& parts) {
        for (const Geometry& part : parts)
            if (auto list = materialsOf(part); !list.empty()) return list;
        return {};
    }

    void addTimes(double secondsPerFrame) {
        VertexColumn column{kKeyTimes, 1, {}};
        for (std::size_t f = 0; f < moves_.frames(); ++f) column.values.push_back(float(double(f) * secondsPerFrame));
        times_ = file_.data().addFloats(column, false);
    }

    void addPart(const MovingPart& part, const Geometry& geometry) {
        const Json primitives = file_.data().primitivesOf(geometry);
        if (primitives.empty()) return;
        const std::size_t node = file_.addNode({{"mesh", file_.addMesh(primitives)}, {"translation", {part.centre.x, part.centre.y, part.centre.z}}});
        if (!part.moves) return;
        std::vector<Vec3> at;
        std::vector<Vec4> turn;
        for (const Triple& p : part.at) at.push_back({float(p[0]), float(p[1]), float(p[2])});
        for (const Turn& q : part.turn) turn.push_back({float(q[0]), float(q[1]), float(q[2]), float(q[3])});
        addKeys(node, at, turn);
    }

    void addRest(const Geometry& rest) {
        const Json primitives = file_.data().primitivesOf(rest);
        if (!primitives.empty()) file_.addNode({{"mesh", file_.addMesh(primitives)}});
    }

    void addCopies() {
        const Copies& copies = *moves_.first().copies();
        const auto* materials = moves_.first().values<std::int32_t>(Element::copy, "material");
        std::map<std::pair<Index, std::int32_t>, std::optional<std::size_t>> meshes;
        std::map<Index, Json> primitives;
        for (std::size_t c = 0; c < copies.place.size(); ++c) {
            const std::pair group{copies.shapeOf[c], materials ? (*materials)[c] : -1};
            const auto [it, fresh] = meshes.emplace(group, std::nullopt);
            if (fresh) {
                const auto [own, made] = primitives.emplace(group.first, Json());
                if (made) own->second = file_.data().primitivesOf(parts_[moves_.parts().size() + 1 + group.first]);
                if (!own->second.empty()) it->second = file_.addMesh(own->second, materials ? std::optional(group.second) : std::nullopt);
            }
            if (it->second) addCopy(moves_.copies()[c], *it->second);
        }
    }

    void addCopy(const MovingCopy& copy, std::size_t mesh) {
        const GltfPlace& p = copy.place.front();
        const std::size_t node = file_.addNode({{"mesh", mesh},
                                                {"translation", {p.move.x, p.move.y, p.move.z}},
                                                {"rotation", {p.turn.x, p.turn.y, p.turn.z, p.turn.w}},
                                                {"scale", {p.size.x, p.size.y, p.size.z}}});
        if (!copy.moves) return;
        std::vector<Vec3> at;
        std::vector<Vec4> turn;
        for (const GltfPlace& place : copy.place) at.push_back(place.move), turn.push_back(place.turn);
        addKeys(node, at, turn);
    }

    void addKeys(std::size_t node, const std::vector<Vec3>& at, const std::vector<Vec4>& turn) {
        VertexColumn moves{"translation", 3, {}}, turns{"rotation", 4, {}};
        for (const Vec3 p : at) moves.values.insert(moves.values.end(), {p.x, p.y, p.z});
        for (const Vec4& q : turn) turns.values.insert(turns.values.end(), {q.x, q.y, q.z, q.w});
        for (const VertexColumn* column : {&moves, &turns}) {
            channels_.push_back({{"sampler", samplers_.size()}, {"target", {{"node", node}, {"path", column->name}}}});
            samplers_.push_back({{"input", times_}, {"output", file_.data().addFloats(*column, false)}, {"interpolation", "LINEAR"}});
        }
    }

    const RigidMoves& moves_;
    const std::vector<Geometry> parts_;
    GltfFile file_;
    std::size_t times_ = 0;
    Json samplers_ = Json::array(), channels_ = Json::array();
};

}  // namespace

std::string animatedGlb(const RigidMoves& moves, double secondsPerFrame) { return AnimationWriter(moves, secondsPerFrame).binary(); }

}  // namespace seedloom
