#include "surface/Subdivide.h"

#include "geometry/Digest.h"

#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

#include <list>
#include <memory>
#include <mutex>

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

/// Everything about a refinement that depends on topology and sharpness alone. Building it is nine tenths of the work, and while a
/// control is dragged only positions change: the last few are kept.
class Refinement {
public:
    Refinement(const Geometry& in, const SubdivideOptions& options, const RunContext& run) : levels_(options.levels) {
        refiner_ = makeRefiner(in.topology(), options);
        run.poll();
        far::TopologyRefiner::UniformOptions uniform(options.levels);
        uniform.fullTopologyInLastLevel = false;
        refiner_->RefineUniform(uniform);
        run.poll();
        makeTopology(in.topology());
        makeParents();
    }

    const far::TopologyRefiner& refiner() const { return *refiner_; }
    const far::TopologyLevel& level(int i) const { return refiner_->GetLevel(i); }
    int levels() const { return levels_; }
    bool hasFacePoints() const { return refiner_->GetSchemeType() != sdc::SCHEME_LOOP; }
    const std::shared_ptr<const Topology>& topology() const { return topology_; }
    const std::vector<Index>& faceParents() const { return parents_; }

private:
    static std::unique_ptr<far::TopologyRefiner> makeRefiner(const Topology& t, const SubdivideOptions& options) {
        std::vector<int> sizes, indices(t.cornerPoint().begin(), t.cornerPoint().end()), corners(t.cornerCount());
        for (std::size_t f = 0; f < t.faceCount(); ++f) sizes.push_back(static_cast<int>(t.face(f).size()));
        for (std::size_t c = 0; c < corners.size(); ++c) corners[c] = static_cast<int>(c);
        std::vector<int> creaseEnds;
        std::vector<float> creases;
        for (std::size_t e = 0; e < options.edgeSharpness.size(); ++e) {
            if (options.edgeSharpness[e] <= 0) continue;
            creaseEnds.push_back(static_cast<int>(t.edges().edges[e].a));
            creaseEnds.push_back(static_cast<int>(t.edges().edges[e].b));
            creases.push_back(options.edgeSharpness[e]);
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
        descriptor.numFVarChannels = options.withCorners ? 1 : 0;
        descriptor.fvarChannels = options.withCorners ? &channel : nullptr;

        using Scheme = sdc::SchemeType;
        const Scheme scheme = options.form == SubdivisionForm::loop ? Scheme::SCHEME_LOOP
                            : options.form == SubdivisionForm::flat ? Scheme::SCHEME_BILINEAR
                                                                    : Scheme::SCHEME_CATMARK;
        sdc::Options rules;
        rules.SetVtxBoundaryInterpolation(sdc::Options::VTX_BOUNDARY_EDGE_AND_CORNER);
        rules.SetFVarLinearInterpolation(sdc::Options::FVAR_LINEAR_ALL);
        using Factory = far::TopologyRefinerFactory<far::TopologyDescriptor>;
        std::unique_ptr<far::TopologyRefiner> refiner(Factory::Create(descriptor, Factory::Options(scheme, rules)));
        if (!refiner) throw std::runtime_error("the subdivision library refuses this mesh");
        return refiner;
    }

    void makeTopology(const Topology& from) {
        const far::TopologyLevel& last = refiner_->GetLevel(levels_);
        std::vector<Index> faceStart{0}, cornerPoint;
        faceStart.reserve(static_cast<std::size_t>(last.GetNumFaces()) + 1);
        cornerPoint.reserve(static_cast<std::size_t>(last.GetNumFaces()) * 4);
        for (int f = 0; f < last.GetNumFaces(); ++f) {
            const far::ConstIndexArray face = last.GetFaceVertices(f);
            for (int i = 0; i < face.size(); ++i) cornerPoint.push_back(static_cast<Index>(face[i]));
            faceStart.push_back(static_cast<Index>(cornerPoint.size()));
        }
        std::vector<Index> curvePoint = from.curvePoint();
        for (Index& p : curvePoint) p = descendant(p);
        topology_ = std::make_shared<const Topology>(static_cast<std::size_t>(last.GetNumVertices()), std::move(faceStart), std::move(cornerPoint),
                                                     from.curveStart(), std::move(curvePoint), from.curveClosed());
    }

    void makeParents() {
        parents_.resize(static_cast<std::size_t>(refiner_->GetLevel(0).GetNumFaces()));
        for (std::size_t f = 0; f < parents_.size(); ++f) parents_[f] = static_cast<Index>(f);
        for (int level = 1; level <= levels_; ++level) {
            const far::TopologyLevel& now = refiner_->GetLevel(level);
            std::vector<Index> next(static_cast<std::size_t>(now.GetNumFaces()));
            for (std::size_t f = 0; f < next.size(); ++f) next[f] = parents_[static_cast<std::size_t>(now.GetFaceParentFace(static_cast<int>(f)))];
            parents_ = std::move(next);
        }
    }

    Index descendant(Index p) const {
        int at = static_cast<int>(p);
        for (int level = 0; level < levels_; ++level) at = refiner_->GetLevel(level).GetVertexChildVertex(at);
        return static_cast<Index>(at);
    }

    int levels_;
    std::unique_ptr<far::TopologyRefiner> refiner_;
    std::shared_ptr<const Topology> topology_;
    std::vector<Index> parents_;
};

Digest keyOf(const Topology& t, const SubdivideOptions& options) {
    Digester digester;
    const auto add = [&](const auto& values) {
        digester.add(std::uint64_t(values.size()));
        digester.add(values.data(), values.size() * sizeof(values[0]));
    };
    digester.add(std::uint64_t(t.pointCount()));
    add(t.faceStart()), add(t.cornerPoint()), add(t.curveStart()), add(t.curvePoint()), add(t.curveClosed()), add(options.edgeSharpness);
    digester.add(std::uint64_t(options.levels) * 8 + std::uint64_t(options.form) * 2 + std::uint64_t(options.withCorners));
    return digester.finish();
}

/// Gives a refinement that was made before, or makes it.
std::shared_ptr<const Refinement> refinementOf(const Geometry& in, const SubdivideOptions& options, const RunContext& run) {
    constexpr std::size_t kMostKept = 4;
    static std::mutex mutex;
    static std::list<std::pair<Digest, std::shared_ptr<const Refinement>>> kept;
    const Digest key = keyOf(in.topology(), options);
    {
        const std::lock_guard lock(mutex);
        for (auto it = kept.begin(); it != kept.end(); ++it)
            if (it->first == key) {
                kept.splice(kept.begin(), kept, it);
                return it->second;
            }
    }
    auto made = std::make_shared<const Refinement>(in, options, run);
    const std::lock_guard lock(mutex);
    kept.emplace_front(key, made);
    if (kept.size() > kMostKept) kept.pop_back();
    return made;
}

/// Carries the attributes of a geometry through a refinement.
class Refined {
public:
    Refined(const Geometry& in, const Refinement& refinement, const RunContext& run) : in_(in), refinement_(refinement), run_(run) {}

    Geometry result() const {
        Geometry out(*pointColumn(*in_.column(Element::point, "position")).as<Vec3>(), refinement_.topology());
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position" && name != "normal") out.setColumn(Element::point, name, pointColumn(column));
        for (const auto& [name, column] : in_.table(Element::corner))
            if (name != "normal") out.setColumn(Element::corner, name, cornerColumn(column));
        for (const auto& [name, column] : in_.table(Element::face))
            if (name != "normal") out.setColumn(Element::face, name, gather(column, refinement_.faceParents()));
        for (Element element : {Element::curve, Element::model})
            for (const auto& [name, column] : in_.table(element)) out.setColumn(element, name, column);
        if (in_.copies()) {
            out.setCopies(in_.sharedCopies());
            for (const auto& [name, column] : in_.table(Element::copy)) out.setColumn(Element::copy, name, column);
        }
        return out;
    }

private:
    /// The row whose value a boolean, integer or text takes: its oldest ancestor point, else any point of its parent.
    template <class T> Column nearestRows(const std::vector<T>& values) const {
        std::vector<T> from = values;
        for (int level = 0; level < refinement_.levels(); ++level) {
            const far::TopologyLevel& now = refinement_.level(level);
            std::vector<T> to(static_cast<std::size_t>(refinement_.level(level + 1).GetNumVertices()));
            // Loop puts no point into a face, and the library has no list to look it up in then.
            for (int f = 0; refinement_.hasFacePoints() && f < now.GetNumFaces(); ++f)
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
        const far::PrimvarRefiner primvar(refinement_.refiner());
        slots = refineLevels<N>(std::move(slots), refinement_.levels(), run_, [&](int level, const std::vector<Slot<N>>& from) {
            std::vector<Slot<N>> to(static_cast<std::size_t>(refinement_.level(level).GetNumVertices()));
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
                if constexpr (std::is_same_v<T, std::string> || std::is_integral_v<T>) return nearestRows(*shared);
                else return smoothRows<T, sizeof(T) / sizeof(float)>(*shared);
            },
            column.data());
    }

    template <class T, int N> Column linearCorners(const std::vector<T>& values) const {
        std::vector<Slot<N>> slots(values.size());
        for (std::size_t i = 0; i < values.size(); ++i) std::copy_n(reinterpret_cast<const float*>(&values[i]), N, slots[i].v);
        const far::PrimvarRefiner primvar(refinement_.refiner());
        slots = refineLevels<N>(std::move(slots), refinement_.levels(), run_, [&](int level, const std::vector<Slot<N>>& from) {
            std::vector<Slot<N>> to(static_cast<std::size_t>(refinement_.level(level).GetNumFVarValues(0)));
            primvar.InterpolateFaceVarying(level, from, to, 0);
            return to;
        });
        const far::TopologyLevel& last = refinement_.level(refinement_.levels());
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
                    const far::TopologyLevel& last = refinement_.level(refinement_.levels());
                    const auto& parents = refinement_.faceParents();
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
    const Refinement& refinement_;
    const RunContext& run_;
};

}  // namespace

Geometry subdivide(const Geometry& in, const SubdivideOptions& options, const RunContext& run) {
    if (options.levels <= 0 || in.faceCount() == 0) return in;
    SubdivideOptions complete = options;
    complete.withCorners = !in.table(Element::corner).empty();
    return Refined(in, *refinementOf(in, complete, run), run).result();
}

}  // namespace seedloom
