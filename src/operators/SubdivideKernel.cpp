#include "operators/SubdivideKernel.h"

#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

#include <memory>

namespace seedloom {

namespace {

namespace far = OpenSubdiv::Far;
namespace sdc = OpenSubdiv::Sdc;

/// N numbers of one element, in the form that the library's interpolation asks for.
template <int N> struct Slot {
    float v[N];
    void Clear(void* = nullptr) { std::fill_n(v, N, 0.0f); }
    void AddWithWeight(const Slot& other, float weight) {
        for (int c = 0; c < N; ++c) v[c] += weight * other.v[c];
    }
};

template <int N, class Step> std::vector<Slot<N>> refineLevels(std::vector<Slot<N>> from, int levels, const RunContext& run, Step&& step) {
    for (int level = 1; level <= levels; ++level) {
        run.poll();
        from = step(level, from);
    }
    return from;
}

class Refined {
public:
    Refined(const Geometry& in, const SubdivideOptions& options, const RunContext& run) : in_(in), options_(options), run_(run) { build(); }

    Geometry result() const {
        const far::TopologyLevel& last = refiner_->GetLevel(options_.levels);
        const auto faces = static_cast<std::size_t>(last.GetNumFaces());
        std::vector<Index> faceStart{0}, cornerPoint;
        faceStart.reserve(faces + 1);
        cornerPoint.reserve(faces * 4);
        for (int f = 0; f < last.GetNumFaces(); ++f) {
            const far::ConstIndexArray face = last.GetFaceVertices(f);
            for (int i = 0; i < face.size(); ++i) cornerPoint.push_back(static_cast<Index>(face[i]));
            faceStart.push_back(static_cast<Index>(cornerPoint.size()));
        }
        std::vector<Index> curvePoint = in_.topology().curvePoint();
        for (Index& p : curvePoint) p = descendant(p);
        const auto points = static_cast<std::size_t>(last.GetNumVertices());
        Geometry out(*pointColumn(*in_.column(Element::point, "position")).as<Vec3>(),
                     Topology(points, std::move(faceStart), std::move(cornerPoint), in_.topology().curveStart(), std::move(curvePoint),
                              in_.topology().curveClosed()));
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position" && name != "normal") out.setColumn(Element::point, name, pointColumn(column));
        for (const auto& [name, column] : in_.table(Element::corner))
            if (name != "normal") out.setColumn(Element::corner, name, cornerColumn(column));
        const auto parents = faceParents();
        for (const auto& [name, column] : in_.table(Element::face))
            if (name != "normal") out.setColumn(Element::face, name, gather(column, parents));
        for (Element element : {Element::curve, Element::model})
            for (const auto& [name, column] : in_.table(element)) out.setColumn(element, name, column);
        if (in_.copies()) {
            out.setCopies(in_.sharedCopies());
            for (const auto& [name, column] : in_.table(Element::copy)) out.setColumn(Element::copy, name, column);
        }
        return out;
    }

private:
    void build() {
        const Topology& t = in_.topology();
        std::vector<int> sizes, indices(t.cornerPoint().begin(), t.cornerPoint().end()), corners(t.cornerCount());
        for (std::size_t f = 0; f < t.faceCount(); ++f) sizes.push_back(static_cast<int>(t.face(f).size()));
        for (std::size_t c = 0; c < corners.size(); ++c) corners[c] = static_cast<int>(c);
        std::vector<int> creaseEnds;
        std::vector<float> creases;
        for (std::size_t e = 0; e < options_.edgeSharpness.size(); ++e) {
            if (options_.edgeSharpness[e] <= 0) continue;
            creaseEnds.push_back(static_cast<int>(t.edges().edges[e].a));
            creaseEnds.push_back(static_cast<int>(t.edges().edges[e].b));
            creases.push_back(options_.edgeSharpness[e]);
        }
        far::TopologyDescriptor descriptor;
        descriptor.numVertices = static_cast<int>(t.pointCount());
        descriptor.numFaces = static_cast<int>(t.faceCount());
        descriptor.numVertsPerFace = sizes.data();
        descriptor.vertIndicesPerFace = indices.data();
        descriptor.numCreases = static_cast<int>(creases.size());
        descriptor.creaseVertexIndexPairs = creaseEnds.data();
        descriptor.creaseWeights = creases.data();
        // Every corner is a value of its own: texture seams and unseamed parts are treated alike.
        far::TopologyDescriptor::FVarChannel channel;
        channel.numValues = static_cast<int>(corners.size());
        channel.valueIndices = corners.data();
        const bool withCorners = !in_.table(Element::corner).empty();
        descriptor.numFVarChannels = withCorners ? 1 : 0;
        descriptor.fvarChannels = withCorners ? &channel : nullptr;

        using Scheme = sdc::SchemeType;
        const Scheme scheme = options_.form == SubdivisionForm::loop ? Scheme::SCHEME_LOOP
                              : options_.form == SubdivisionForm::flat ? Scheme::SCHEME_BILINEAR : Scheme::SCHEME_CATMARK;
        sdc::Options rules;
        rules.SetVtxBoundaryInterpolation(sdc::Options::VTX_BOUNDARY_EDGE_AND_CORNER);
        rules.SetFVarLinearInterpolation(sdc::Options::FVAR_LINEAR_ALL);
        using Factory = far::TopologyRefinerFactory<far::TopologyDescriptor>;
        refiner_.reset(Factory::Create(descriptor, Factory::Options(scheme, rules)));
        if (!refiner_) throw std::runtime_error("the subdivision library refuses this mesh");
        run_.poll();
        far::TopologyRefiner::UniformOptions uniform(options_.levels);
        uniform.fullTopologyInLastLevel = false;
        refiner_->RefineUniform(uniform);
        run_.poll();
    }

    Index descendant(Index p) const {
        int at = static_cast<int>(p);
        for (int level = 0; level < options_.levels; ++level) at = refiner_->GetLevel(level).GetVertexChildVertex(at);
        return static_cast<Index>(at);
    }

    std::vector<Index> faceParents() const {
        std::vector<Index> parents(static_cast<std::size_t>(refiner_->GetLevel(0).GetNumFaces()));
        for (std::size_t f = 0; f < parents.size(); ++f) parents[f] = static_cast<Index>(f);
        for (int level = 1; level <= options_.levels; ++level) {
            const far::TopologyLevel& now = refiner_->GetLevel(level);
            std::vector<Index> next(static_cast<std::size_t>(now.GetNumFaces()));
            for (std::size_t f = 0; f < next.size(); ++f) next[f] = parents[static_cast<std::size_t>(now.GetFaceParentFace(static_cast<int>(f)))];
            parents = std::move(next);
        }
        return parents;
    }

    /// The row whose value a boolean, integer or text takes: its oldest ancestor point, else any point of its parent.
    template <class T> Column nearestRows(const std::vector<T>& values) const {
        std::vector<T> from = values;
        for (int level = 0; level < options_.levels; ++level) {
            const far::TopologyLevel& now = refiner_->GetLevel(level);
            std::vector<T> to(static_cast<std::size_t>(refiner_->GetLevel(level + 1).GetNumVertices()));
            for (int f = 0; f < now.GetNumFaces(); ++f)
                if (const int child = now.GetFaceChildVertex(f); child >= 0) to[std::size_t(child)] = from[std::size_t(now.GetFaceVertices(f)[0])];
            for (int e = 0; e < now.GetNumEdges(); ++e)
                if (const int child = now.GetEdgeChildVertex(e); child >= 0) to[std::size_t(child)] = from[std::size_t(now.GetEdgeVertices(e)[0])];
            for (int p = 0; p < now.GetNumVertices(); ++p)
                if (const int child = now.GetVertexChildVertex(p); child >= 0) to[std::size_t(child)] = from[std::size_t(p)];
            from = std::move(to);
        }
        return Column(std::move(from));
    }

    template <class T, int N> Column smoothRows(const std::vector<T>& values) const {
        std::vector<Slot<N>> slots(values.size());
        for (std::size_t i = 0; i < values.size(); ++i) std::copy_n(reinterpret_cast<const float*>(&values[i]), N, slots[i].v);
        const far::PrimvarRefiner primvar(*refiner_);
        slots = refineLevels<N>(std::move(slots), options_.levels, run_, [&](int level, const std::vector<Slot<N>>& from) {
            std::vector<Slot<N>> to(static_cast<std::size_t>(refiner_->GetLevel(level).GetNumVertices()));
            primvar.Interpolate(level, from, to);
            return to;
        });
        return unslot<T, N>(slots);
    }
    template <class T, int N> Column unslot(const std::vector<Slot<N>>& slots) const {
        std::vector<T> out(slots.size());
        for (std::size_t i = 0; i < out.size(); ++i) std::copy_n(slots[i].v, N, reinterpret_cast<float*>(&out[i]));
        return Column(std::move(out));
    }

    Column pointColumn(const Column& column) const {
        return std::visit(
            [&](const auto& shared) -> Column {
                using T = typename std::decay_t<decltype(*shared)>::value_type;
                if constexpr (std::is_same_v<T, std::string> || std::is_integral_v<T>)
                    return nearestRows(*shared);
                else
                    return smoothRows<T, sizeof(T) / sizeof(float)>(*shared);
            },
            column.data());
    }

    template <class T, int N> Column linearCorners(const std::vector<T>& values) const {
        std::vector<Slot<N>> slots(values.size());
        for (std::size_t i = 0; i < values.size(); ++i) std::copy_n(reinterpret_cast<const float*>(&values[i]), N, slots[i].v);
        const far::PrimvarRefiner primvar(*refiner_);
        slots = refineLevels<N>(std::move(slots), options_.levels, run_, [&](int level, const std::vector<Slot<N>>& from) {
            std::vector<Slot<N>> to(static_cast<std::size_t>(refiner_->GetLevel(level).GetNumFVarValues(0)));
            primvar.InterpolateFaceVarying(level, from, to, 0);
            return to;
        });
        const far::TopologyLevel& last = refiner_->GetLevel(options_.levels);
        std::vector<Slot<N>> perCorner;
        for (int f = 0; f < last.GetNumFaces(); ++f) {
            const far::ConstIndexArray face = last.GetFaceFVarValues(f, 0);
            for (int i = 0; i < face.size(); ++i) perCorner.push_back(slots[static_cast<std::size_t>(face[i])]);
        }
        return unslot<T, N>(perCorner);
    }

    Column cornerColumn(const Column& column) const {
        return std::visit(
            [&](const auto& shared) -> Column {
                using T = typename std::decay_t<decltype(*shared)>::value_type;
                if constexpr (std::is_same_v<T, std::string> || std::is_integral_v<T>) {
                    // The first corner's value of the face it came from.
                    std::vector<Index> rows;
                    const far::TopologyLevel& last = refiner_->GetLevel(options_.levels);
                    const auto parents = faceParents();
                    for (int f = 0; f < last.GetNumFaces(); ++f)
                        rows.insert(rows.end(), std::size_t(last.GetFaceVertices(f).size()), in_.topology().faceStart()[parents[std::size_t(f)]]);
                    return gather(column, rows);
                } else {
                    return linearCorners<T, sizeof(T) / sizeof(float)>(*shared);
                }
            },
            column.data());
    }

    const Geometry& in_;
    const SubdivideOptions& options_;
    const RunContext& run_;
    std::unique_ptr<far::TopologyRefiner> refiner_;
};

}  // namespace

Geometry subdivide(const Geometry& in, const SubdivideOptions& options, const RunContext& run) {
    if (options.levels <= 0 || in.faceCount() == 0) return in;
    return Refined(in, options, run).result();
}

}  // namespace seedloom
