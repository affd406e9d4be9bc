#include "surface/Unwrap.h"

#include "geometry/Groups.h"
#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "parallel/Loops.h"
#include "surface/ChartCut.h"
#include "surface/FlatBorder.h"

#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <complex>

namespace seedloom {

namespace {

using Complex = std::complex<double>;

/// A triangle's corners laid in its own plane, the first at 0 and the second on the real axis.
std::array<Complex, 3> inOwnPlane(const std::array<Vec3, 3>& p) {
    const auto wide = [](Vec3 v) { return std::array<double, 3>{v.x, v.y, v.z}; };
    const auto a = wide(p[1] - p[0]), b = wide(p[2] - p[0]);
    const double reach = std::sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2]);
    if (!(reach > 0)) return {};
    const double along = (a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / reach;
    const double square = b[0] * b[0] + b[1] * b[1] + b[2] * b[2] - along * along;
    return {Complex{0}, Complex{reach}, Complex{along, std::sqrt(std::max(square, 0.0))}};
}
double doubled(const Complex& a, const Complex& b, const Complex& c) { return std::imag(std::conj(b - a) * (c - a)); }

/// The triangles of a chart over its flat vertices.
struct FlatTask {
    std::vector<std::array<Index, 3>> triangles;  ///< vertices
    std::vector<std::array<Complex, 3>> shapes;   ///< true shape of each
    std::vector<Vec3> positions;                  ///< of the vertices
};

struct Laid {
    std::vector<Complex> places;  ///< per vertex
    double stretch = 1, area = 0;
};

/// Places that keep angles as far as can be; nullopt where the numbers do not allow it.
std::optional<std::vector<Complex>> conformal(const FlatTask& task) {
    const auto count = task.positions.size();
    const auto farFrom = [&](Vec3 p) {
        Index best = 0;
        for (Index v = 1; v < count; ++v)
            if (length(task.positions[v] - p) > length(task.positions[best] - p)) best = v;
        return best;
    };
    const Index one = farFrom(task.positions[0]), other = farFrom(task.positions[one]);
    if (one == other) return std::nullopt;
    std::vector<Complex> places(count, Complex{0});
    places[other] = double(length(task.positions[other] - task.positions[one]));
    // Unknowns are all vertices but the two that are held.
    std::vector<int> column(count);
    int unknowns = 0;
    for (Index v = 0; v < count; ++v) column[v] = v == one || v == other ? -1 : unknowns++;
    if (unknowns == 0) return places;
    std::vector<Eigen::Triplet<Complex>> entries;
    Eigen::VectorXcd right = Eigen::VectorXcd::Zero(unknowns);
    for (std::size_t t = 0; t < task.triangles.size(); ++t) {
        const auto& s = task.shapes[t];
        const double area2 = doubled(s[0], s[1], s[2]);
        if (!(area2 > 0)) continue;
        const std::array<Complex, 3> weight{s[2] - s[1], s[0] - s[2], s[1] - s[0]};
        for (int i = 0; i < 3; ++i) {
            const int row = column[task.triangles[t][std::size_t(i)]];
            if (row < 0) continue;
            for (int j = 0; j < 3; ++j) {
                const Complex value = std::conj(weight[std::size_t(i)]) * weight[std::size_t(j)] / area2;
                const Index v = task.triangles[t][std::size_t(j)];
                if (column[v] >= 0) entries.emplace_back(row, column[v], value);
                else right[row] -= value * places[v];
            }
        }
    }
    Eigen::SparseMatrix<Complex> matrix(unknowns, unknowns);
    matrix.setFromTriplets(entries.begin(), entries.end());
    const Eigen::SimplicialLDLT<Eigen::SparseMatrix<Complex>> solver(matrix);
    if (solver.info() != Eigen::Success) return std::nullopt;
    const Eigen::VectorXcd found = solver.solve(right);
    if (!found.allFinite()) return std::nullopt;
    for (Index v = 0; v < count; ++v)
        if (column[v] >= 0) places[v] = found[column[v]];
    return places;
}

/// Brings the chart to the size of its area and measures it; nullopt where a triangle is mirrored.
std::optional<Laid> measured(const FlatTask& task, std::vector<Complex> places) {
    double flat = 0, real = 0;
    for (std::size_t t = 0; t < task.triangles.size(); ++t) {
        const auto& v = task.triangles[t];
        flat += doubled(places[v[0]], places[v[1]], places[v[2]]);
        real += doubled(task.shapes[t][0], task.shapes[t][1], task.shapes[t][2]);
    }
    if (!(flat > 0) || !(real > 0)) return std::nullopt;
    const double scale = std::sqrt(real / flat);
    for (Complex& p : places) p *= scale;
    double sum = 0;
    for (std::size_t t = 0; t < task.triangles.size(); ++t) {
        const auto& v = task.triangles[t];
        const double area2 = doubled(places[v[0]], places[v[1]], places[v[2]]), true2 = doubled(task.shapes[t][0], task.shapes[t][1], task.shapes[t][2]);
        // A sliver that is only as thick as rounding has no side that could be wrong.
        if (true2 <= 1e-9 * real / double(task.triangles.size())) continue;
        if (!(area2 > 0)) return std::nullopt;
        sum += true2 * std::max(area2 / true2, true2 / area2);
    }
    return Laid{std::move(places), sum / real, real / 2};
}

class Unwrapping {
public:
    Unwrapping(const Geometry& g, const UnwrapOptions& options, const RunContext& run)
        : g_(g), options_(options), run_(run), triangles_(triangulate(g)), normals_(faceNormals(g)), firstTriangle_(g.faceCount() + 1, 0) {
        for (Index f : triangles_.faceOf) ++firstTriangle_[f + 1];
        for (std::size_t f = 0; f < g.faceCount(); ++f) firstTriangle_[f + 1] += firstTriangle_[f];
        out_.places.assign(g.cornerCount(), {});
        out_.chartOf.assign(g.faceCount(), Unwrapped::kNoChart);
    }

    Unwrapped finish() {
        std::vector<ChartFaces> charts = connected();
        std::vector<std::vector<Done>> done(charts.size());
        forEach(
            charts.size(), run_, [&](std::size_t i) { done[i] = layFlat(std::move(charts[i])); }, 1);
        double area = 0, sum = 0;
        for (const auto& list : done)
            for (const Done& d : list) area += d.laid.area, sum += d.laid.stretch * d.laid.area;
        out_.stretch = area > 0 ? sum / area : 1;
        for (auto& list : done)
            for (Done& d : list) takeOver(d);
        numberInOrder();
        return std::move(out_);
    }

private:
    struct Done {
        std::vector<Index> faces, vertexOf;
        Laid laid;
    };

    std::vector<ChartFaces> connected() const {
        const Topology& t = g_.topology();
        const EdgeTable& table = t.edges();
        const auto chosen = [&](Index f) { return options_.chosen.empty() || options_.chosen[f]; };
        std::vector<InnerEdge> joints(table.edges.size(), {~Index{0}, ~Index{0}, ~Index{0}});
        Groups groups(g_.faceCount());
        for (Index c = 0; c < t.cornerCount(); ++c) {
            const Index e = table.cornerEdge[c];
            if (!chosen(t.faceOfCorner()[c]) || table.faceCount[e] != 2 || table.balance[e] != 0 || (!options_.seams.empty() && options_.seams[e])) continue;
            if (joints[e].cornerA == ~Index{0}) {
                joints[e] = {e, c, ~Index{0}};
            } else if (t.faceOfCorner()[joints[e].cornerA] != t.faceOfCorner()[c]) {
                joints[e].cornerB = c;
                groups.join(t.faceOfCorner()[joints[e].cornerA], t.faceOfCorner()[c]);
            }
        }
        std::vector<Index> number(g_.faceCount(), ~Index{0});
        std::vector<ChartFaces> out;
        for (Index f = 0; f < g_.faceCount(); ++f) {
            if (!chosen(f) || t.face(f).size() < 3) continue;
            Index& n = number[groups.find(f)];
            if (n == ~Index{0}) n = Index(out.size()), out.emplace_back();
            out[n].faces.push_back(f);
        }
        for (const InnerEdge& e : joints)
            if (e.cornerB != ~Index{0}) out[number[groups.find(t.faceOfCorner()[e.cornerA])]].inner.push_back(e);
        return out;
    }

    /// Lays a chart, or what it must be split into.
    std::vector<Done> layFlat(ChartFaces whole) const {
        std::vector<ChartFaces> open;
        open.push_back(std::move(whole));
        std::vector<Done> out;
        while (!open.empty()) {
            run_.poll();
            ChartFaces chart = std::move(open.back());
            open.pop_back();
            if (auto vertices = diskVertices(g_, chart)) {
                const FlatTask task = taskOf(chart, *vertices);
                auto laid = lay(chart, task);
                const bool single = chart.faces.size() == 1;
                if (laid && (single || (laid->stretch <= options_.mostStretch && !borderCrosses(task.triangles, laid->places)))) {
                    out.push_back({std::move(chart.faces), std::move(*vertices), std::move(*laid)});
                    continue;
                }
                if (single) {
                    out.push_back({std::move(chart.faces), std::move(*vertices), {projected(task, Vec3{}), 1, 0}});
                    continue;
                }
            }
            auto [a, b] = splitChart(g_, chart);
            open.push_back(std::move(b));
            open.push_back(std::move(a));
        }
        return out;
    }

    std::optional<Laid> lay(const ChartFaces& chart, const FlatTask& task) const {
        const Vec3 first = normals_[chart.faces[0]];
        const bool flat = std::all_of(chart.faces.begin(), chart.faces.end(), [&](Index f) { return length(normals_[f] - first) < 1e-4f; });
        if (flat) return measured(task, projected(task, first));
        const auto places = conformal(task);
        return places ? measured(task, *places) : std::nullopt;
    }

    /// Seen from where the normal points to.
    static std::vector<Complex> projected(const FlatTask& task, Vec3 normal) {
        const Vec3 side = std::abs(normal.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{0, 0, -1};
        const Vec3 right = normalized(cross(side, normal), Vec3{1, 0, 0}), up = cross(normal, right);
        std::vector<Complex> out;
        for (Vec3 p : task.positions) out.emplace_back(double(dot(p - task.positions[0], right)), double(dot(p - task.positions[0], up)));
        return out;
    }

    FlatTask taskOf(const ChartFaces& chart, const std::vector<Index>& vertexOf) const {
        const Topology& t = g_.topology();
        FlatTask out;
        out.positions.resize(std::size_t(*std::max_element(vertexOf.begin(), vertexOf.end())) + 1);
        std::size_t corner = 0;
        for (Index f : chart.faces) {
            const Index begin = t.faceStart()[f];
            for (Index i = 0; i < t.face(f).size(); ++i) out.positions[vertexOf[corner + i]] = g_.positions()[t.face(f)[i]];
            for (Index k = firstTriangle_[f]; k < firstTriangle_[f + 1]; ++k) {
                std::array<Index, 3> v;
                std::array<Vec3, 3> p;
                for (std::size_t i = 0; i < 3; ++i) {
                    v[i] = vertexOf[corner + triangles_.corners[k * 3 + i] - begin];
                    p[i] = g_.positions()[t.cornerPoint()[triangles_.corners[k * 3 + i]]];
                }
                out.triangles.push_back(v);
                out.shapes.push_back(inOwnPlane(p));
            }
            corner += t.face(f).size();
        }
        return out;
    }

    void takeOver(const Done& d) {
        const Topology& t = g_.topology();
        std::size_t corner = 0;
        for (Index f : d.faces) {
            out_.chartOf[f] = out_.charts;
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
                const Complex p = d.laid.places[d.vertexOf[corner++]];
                out_.places[c] = {float(p.real()), float(p.imag())};
            }
        }
        ++out_.charts;
    }

    void numberInOrder() {
        std::vector<Index> number(out_.charts, Unwrapped::kNoChart);
        Index next = 0;
        for (Index& chart : out_.chartOf) {
            if (chart == Unwrapped::kNoChart) continue;
            if (number[chart] == Unwrapped::kNoChart) number[chart] = next++;
            chart = number[chart];
        }
    }

    const Geometry& g_;
    const UnwrapOptions& options_;
    const RunContext& run_;
    Triangles triangles_;
    std::vector<Vec3> normals_;
    std::vector<Index> firstTriangle_;
    Unwrapped out_;
};

}  // namespace

Unwrapped unwrap(const Geometry& geometry, const UnwrapOptions& options, const RunContext& run) { return Unwrapping(geometry, options, run).finish(); }

}  // namespace seedloom
