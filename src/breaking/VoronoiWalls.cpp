#include "breaking/VoronoiWalls.h"

#include "geometry/Weld.h"

#include <CGAL/Delaunay_triangulation_3.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Exact_rational.h>
#include <CGAL/Spatial_sort_traits_adapter_3.h>
#include <CGAL/Triangulation_cell_base_with_info_3.h>
#include <CGAL/Triangulation_vertex_base_with_info_3.h>
#include <CGAL/hilbert_sort.h>
#include <CGAL/property_map.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_3<Index, Kernel>;
using CellBase = CGAL::Delaunay_triangulation_cell_base_3<Kernel, CGAL::Triangulation_cell_base_with_info_3<Index, Kernel>>;
using Delaunay = CGAL::Delaunay_triangulation_3<Kernel, CGAL::Triangulation_data_structure_3<VertexBase, CellBase>>;
using Place = std::array<double, 3>;

constexpr double kJoined = 1e-6;  ///< part of the size: corners of cells that lie as near to each other are one
constexpr double kFar = 6;        ///< how many times the size away the seeds stand that close the outermost cells

Place operator-(const Place& a, const Place& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
double dot(const Place& a, const Place& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
Place cross(const Place& a, const Place& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }

/// Where three planes through the origin's shifts meet: rows · x = right. Nothing where they do not in one point.
template <class Number> bool solve(const std::array<std::array<Number, 3>, 3>& rows, const std::array<Number, 3>& right, std::array<Number, 3>& out) {
    const auto minor = [&](std::size_t r, std::size_t s, std::size_t c, std::size_t d) { return Number(rows[r][c] * rows[s][d] - rows[r][d] * rows[s][c]); };
    const Number a = minor(1, 2, 1, 2), b = minor(1, 2, 2, 0), c = minor(1, 2, 0, 1);
    const Number det = rows[0][0] * a + rows[0][1] * b + rows[0][2] * c;
    if (det == Number(0)) return false;
    const std::array<Number, 3> first{a, b, c}, second{minor(2, 0, 1, 2), minor(2, 0, 2, 0), minor(2, 0, 0, 1)},
        third{minor(0, 1, 1, 2), minor(0, 1, 2, 0), minor(0, 1, 0, 1)};
    for (std::size_t k = 0; k < 3; ++k) out[k] = (first[k] * right[0] + second[k] * right[1] + third[k] * right[2]) / det;
    return true;
}

Place circumcentre(const std::array<Place, 4>& p) {
    std::array<Place, 3> rows;
    Place right, out;
    double longest = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        rows[i] = p[i + 1] - p[0];
        right[i] = dot(rows[i], rows[i]) / 2;
        longest = std::max(longest, right[i]);
    }
    // Flat tetrahedra, as evenly spaced seeds give, lose all digits in doubles.
    const double volume = std::abs(dot(rows[0], cross(rows[1], rows[2])));
    if (volume > 1e-7 * std::pow(2 * longest, 1.5) && solve(rows, right, out)) return {out[0] + p[0][0], out[1] + p[0][1], out[2] + p[0][2]};
    using Exact = CGAL::Exact_rational;
    std::array<std::array<Exact, 3>, 3> exactRows;
    std::array<Exact, 3> exactRight, exact;
    for (std::size_t i = 0; i < 3; ++i) {
        exactRight[i] = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            exactRows[i][k] = Exact(p[i + 1][k]) - Exact(p[0][k]);
            exactRight[i] += exactRows[i][k] * exactRows[i][k] / Exact(2);
        }
    }
    if (!solve(exactRows, exactRight, exact)) return p[0];  // no triangulation has such a one
    for (std::size_t k = 0; k < 3; ++k) out[k] = CGAL::to_double(exact[k] + Exact(p[0][k]));
    return out;
}

struct Plane {
    Place normal;     ///< unit
    double distance;  ///< normal · x
    Index beyond;     ///< the cell on its other side
};

class VoronoiBuilder {
public:
    VoronoiBuilder(const std::vector<Vec3>& seeds, const Bounds& around, Vec3 stretch, const RunContext& run)
        : run_(run), around_(around), stretch_(stretch), firstFar_(Index(seeds.size())) {
        Bounds all = around;
        for (Vec3 s : seeds) all.add(s);
        size_ = std::max(all.diagonal(), 1e-30);
        const Vec3 middle = all.centre();
        for (int c = 0; c < 3; ++c) middle_[std::size_t(c)] = double(middle[c]);
        std::vector<std::pair<Kernel::Point_3, Index>> list;
        std::set<Place> known;
        double reach = 0;
        for (Index i = 0; i < seeds.size(); ++i) {
            Place at;
            for (int c = 0; c < 3; ++c) at[std::size_t(c)] = (double(seeds[i][c]) - middle_[std::size_t(c)]) / double(stretch[c]);
            for (double v : at) reach = std::max(reach, std::abs(v));
            if (known.insert(at).second) list.push_back({{at[0], at[1], at[2]}, i});
        }
        for (int c = 0; c < 3; ++c) reach = std::max(reach, double(all.size()[c]) / double(stretch[c]));
        const double far = std::max(reach, 1e-30) * kFar;
        for (int corner = 0; corner < 8; ++corner)
            list.push_back({{corner & 1 ? far : -far, corner & 2 ? far : -far, corner & 4 ? far : -far}, firstFar_ + Index(corner)});
        for (int axis = 0; axis < 6; ++axis) {
            Place at{};
            at[std::size_t(axis / 2)] = axis % 2 ? far * 1.6 : -far * 1.6;
            list.push_back({{at[0], at[1], at[2]}, firstFar_ + 8 + Index(axis)});
        }
        // One after the other, near by near: the library's own way of inserting many shuffles them anew each time, and roundings with them.
        using Near = CGAL::Spatial_sort_traits_adapter_3<Kernel, CGAL::First_of_pair_property_map<std::pair<Kernel::Point_3, Index>>>;
        CGAL::hilbert_sort(list.begin(), list.end(), Near());
        Delaunay::Cell_handle hint;
        for (const auto& [at, i] : list) {
            pollSometimes();
            const auto v = delaunay_.insert(at, hint);
            v->info() = i;
            hint = v->cell();
        }
    }

    FlatWalls shared() {
        numberCells();
        for (const auto& [ends, edge] : edges()) {
            pollSometimes();
            addShared(ends, edge);
        }
        return joined();
    }
    FlatWalls apart(double gap) {
        std::map<Index, std::vector<Plane>> planes;
        for (const auto& [ends, edge] : edges()) {
            const Place a = seedAt(edge.first->vertex(edge.second)), b = seedAt(edge.first->vertex(edge.third));
            const bool turned = edge.first->vertex(edge.second)->info() != ends[0];
            addPlane(planes, ends[0], ends[1], turned ? b : a, turned ? a : b, gap);
            if (!isFar(ends[1])) addPlane(planes, ends[1], ends[0], turned ? a : b, turned ? b : a, gap);
        }
        for (auto& [cell, list] : planes) {
            pollSometimes();
            addCell(cell, list);
        }
        return joined();
    }

    std::vector<std::vector<Index>> neighbours(std::size_t seeds) const {
        std::vector<std::vector<Index>> out(seeds);
        for (const auto& [ends, edge] : edges())
            if (!isFar(ends[1])) out[ends[0]].push_back(ends[1]), out[ends[1]].push_back(ends[0]);
        for (auto& list : out) std::sort(list.begin(), list.end());
        return out;
    }

private:
    static Place seedAt(Delaunay::Vertex_handle v) { return {v->point().x(), v->point().y(), v->point().z()}; }
    Place real(const Place& p) const {
        Place out;
        for (std::size_t c = 0; c < 3; ++c) out[c] = p[c] * double(stretch_[int(c)]) + middle_[c];
        return out;
    }

    bool isFar(Index seed) const { return seed >= firstFar_; }

    /// Pairs of neighbours, the smaller number first, with at least one real seed, in order.
    std::vector<std::pair<std::array<Index, 2>, Delaunay::Edge>> edges() const {
        std::vector<std::pair<std::array<Index, 2>, Delaunay::Edge>> out;
        for (auto e = delaunay_.finite_edges_begin(); e != delaunay_.finite_edges_end(); ++e) {
            const auto [a, b] = std::minmax(e->first->vertex(e->second)->info(), e->first->vertex(e->third)->info());
            if (!isFar(a)) out.push_back({{a, b}, *e});
        }
        std::sort(out.begin(), out.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
        return out;
    }

    /// Corners of cells, one for each tetrahedron, in an order that the seeds alone give: that of the library is one of memory.
    void numberCells() {
        std::vector<std::pair<std::array<Index, 4>, Delaunay::Cell_handle>> cells;
        for (auto c = delaunay_.finite_cells_begin(); c != delaunay_.finite_cells_end(); ++c) {
            std::array<Index, 4> key{c->vertex(0)->info(), c->vertex(1)->info(), c->vertex(2)->info(), c->vertex(3)->info()};
            std::sort(key.begin(), key.end());
            cells.push_back({key, c});
        }
        std::sort(cells.begin(), cells.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
        for (const auto& [key, c] : cells) {
            pollSometimes();
            std::array<Place, 4> corners;
            for (int k = 0; k < 4; ++k) corners[std::size_t(std::find(key.begin(), key.end(), c->vertex(k)->info()) - key.begin())] = seedAt(c->vertex(k));
            c->info() = Index(out_.points.size());
            out_.points.push_back(real(circumcentre(corners)));
        }
    }
    void addShared(const std::array<Index, 2>& ends, const Delaunay::Edge& edge) {
        if (isFar(ends[1])) return;  // far outside
        std::vector<Index> ring;
        const auto start = delaunay_.incident_cells(edge);
        auto c = start;
        do {
            if (delaunay_.is_infinite(c)) return;
            ring.push_back(c->info());
        } while (++c != start);
        // The front looks to the cell with the larger number.
        const bool turned = edge.first->vertex(edge.second)->info() != ends[0];
        const Place a = real(seedAt(edge.first->vertex(edge.second))), b = real(seedAt(edge.first->vertex(edge.third)));
        const Place way = turned ? a - b : b - a;
        if (dot(areaOf(ring), way) < 0) std::reverse(ring.begin(), ring.end());
        std::rotate(ring.begin(), std::min_element(ring.begin(), ring.end()), ring.end());
        out_.walls.push_back({std::move(ring), {ends[1], ends[0]}});
    }
    Place areaOf(const std::vector<Index>& ring) const {
        Place sum{};
        for (std::size_t k = 1; k + 1 < ring.size(); ++k) {
            const Place n = cross(out_.points[ring[k]] - out_.points[ring[0]], out_.points[ring[k + 1]] - out_.points[ring[0]]);
            for (std::size_t c = 0; c < 3; ++c) sum[c] += n[c];
        }
        return sum;
    }

    void addPlane(std::map<Index, std::vector<Plane>>& planes, Index cell, Index beyond, const Place& own, const Place& other, double gap) const {
        Place normal, middle;
        for (std::size_t c = 0; c < 3; ++c) {
            normal[c] = (other[c] - own[c]) / double(stretch_[int(c)]);
            middle[c] = (other[c] + own[c]) / 2;
        }
        const double length = std::sqrt(dot(normal, normal));
        if (!(length > 0)) return;
        for (double& v : normal) v /= length;
        planes[cell].push_back({normal, dot(normal, real(middle)) - (isFar(beyond) ? 0 : gap / 2), beyond});
    }
    /// The polygon that each plane has in common with all others' insides.
    void addCell(Index cell, const std::vector<Plane>& planes) {
        std::map<std::array<Index, 3>, Index> corners;
        for (Index p = 0; p < planes.size(); ++p) {
            if (isFar(planes[p].beyond)) continue;
            // Each edge of the ring lies on another plane; a corner is where three meet.
            std::vector<Index> sides = sidesOf(planes, p);
            if (sides.size() < 3) continue;
            std::vector<Index> ring;
            for (std::size_t k = 0; k < sides.size(); ++k) {
                std::array<Index, 3> key{p, sides[k], sides[(k + 1) % sides.size()]};
                std::sort(key.begin(), key.end());
                const auto [it, isNew] = corners.try_emplace(key, Index(out_.points.size()));
                if (isNew) {
                    Place at{};
                    solve<double>({planes[key[0]].normal, planes[key[1]].normal, planes[key[2]].normal},
                                  {planes[key[0]].distance, planes[key[1]].distance, planes[key[2]].distance}, at);
                    out_.points.push_back(at);
                }
                ring.push_back(it->second);
            }
            out_.walls.push_back({std::move(ring), {kNoCell, cell}});
        }
    }
    /// The planes along the outline of what lies on plane `p`, anticlockwise seen from outside the cell.
    std::vector<Index> sidesOf(const std::vector<Plane>& planes, Index p) const {
        const Place& n = planes[p].normal;
        Place u = cross(n, std::abs(n[0]) < 0.6 ? Place{1, 0, 0} : Place{0, 1, 0});
        const double length = std::sqrt(dot(u, u));
        for (double& v : u) v /= length;
        const Place v = cross(n, u);
        const double far = size_ * 100, off = planes[p].distance - dot(n, middle_);
        struct Corner {
            double x, y;
            Index side;  ///< of the edge that starts here
        };
        std::vector<Corner> ring{{-far, -far, kNoCell}, {far, -far, kNoCell}, {far, far, kNoCell}, {-far, far, kNoCell}}, next;
        for (Index q = 0; q < planes.size() && !ring.empty(); ++q) {
            if (q == p) continue;
            const double a = dot(planes[q].normal, u), b = dot(planes[q].normal, v),
                         c = planes[q].distance - dot(planes[q].normal, middle_) - off * dot(n, planes[q].normal);
            next.clear();
            for (std::size_t k = 0; k < ring.size(); ++k) {
                const Corner &from = ring[k], &to = ring[(k + 1) % ring.size()];
                const double s = a * from.x + b * from.y - c, t = a * to.x + b * to.y - c;
                if (s <= 0) next.push_back(from);
                if ((s < 0 && t > 0) || (s > 0 && t < 0)) {
                    const double share = s / (s - t);
                    next.push_back({from.x + (to.x - from.x) * share, from.y + (to.y - from.y) * share, s < 0 ? q : from.side});
                } else if (s == 0 && t > 0) {
                    next.back().side = q;
                }
            }
            std::swap(ring, next);
        }
        std::vector<Index> sides;
        for (const Corner& c : ring) {
            if (c.side == kNoCell) return {};  // an unbounded cell: none that has far seeds around it is
            sides.push_back(c.side);
        }
        return sides;
    }

    /// Corners at one place are one; walls that have fewer than three then, or lie beside what is asked for, are left out.
    FlatWalls joined() {
        std::vector<Vec3> places;
        for (const Place& p : out_.points) places.push_back({float(p[0]), float(p[1]), float(p[2])});
        const std::vector<Index> first = nearestEarlier(places, size_ * kJoined);
        FlatWalls out;
        std::vector<Index> number(places.size(), kNoCell);
        for (const auto& wall : out_.walls) {
            FlatWalls::Wall kept{{}, wall.cells};
            Bounds box;
            for (Index p : wall.ring) {
                if (!kept.ring.empty() && kept.ring.back() == first[p]) continue;
                kept.ring.push_back(first[p]);
                box.add(places[first[p]]);
            }
            while (kept.ring.size() > 1 && kept.ring.back() == kept.ring.front()) kept.ring.pop_back();
            if (kept.ring.size() < 3 || !meets(box)) continue;
            for (Index& p : kept.ring) {
                if (number[p] == kNoCell) number[p] = Index(out.points.size()), out.points.push_back(out_.points[p]);
                p = number[p];
            }
            out.walls.push_back(std::move(kept));
        }
        return out;
    }
    bool meets(const Bounds& box) const {
        for (int c = 0; c < 3; ++c)
            if (box.min[c] > around_.max[c] || box.max[c] < around_.min[c]) return false;
        return true;
    }

    void pollSometimes() {
        if (++steps_ % 512 == 0) run_.poll();
    }

    const RunContext& run_;
    std::size_t steps_ = 0;
    Bounds around_;
    Vec3 stretch_;
    Index firstFar_;  ///< numbers of the seeds that close the outermost cells
    double size_ = 1;
    Place middle_{};
    Delaunay delaunay_;
    FlatWalls out_;
};

}  // namespace

FlatWalls voronoiWalls(const std::vector<Vec3>& seeds, const Bounds& around, Vec3 stretch, double gap, const RunContext& run) {
    if (seeds.empty()) return {};
    VoronoiBuilder builder(seeds, around, stretch, run);
    return gap > 0 ? builder.apart(gap) : builder.shared();
}

Index cellHolding(Vec3 place, const std::vector<Vec3>& seeds, Vec3 stretch, double gap) {
    const auto squared = [&](Vec3 seed) {
        double sum = 0;
        for (int c = 0; c < 3; ++c) {
            const double d = (double(place[c]) - double(seed[c])) / double(stretch[c]);
            sum += d * d;
        }
        return sum;
    };
    Index nearest = kNoCell;
    double least = std::numeric_limits<double>::infinity();
    for (Index i = 0; i < seeds.size(); ++i)
        if (const double far = squared(seeds[i]); far < least) least = far, nearest = i;
    for (Index i = 0; gap > 0 && i < seeds.size(); ++i) {
        // From the middle between both, along the wall's normal in real space.
        double slope = 0;
        for (int c = 0; c < 3; ++c) slope += std::pow((double(seeds[i][c]) - double(seeds[nearest][c])) / (double(stretch[c]) * double(stretch[c])), 2);
        if (slope > 0 && squared(seeds[i]) - least < gap * std::sqrt(slope)) return kNoCell;
    }
    return nearest;
}

std::vector<std::vector<Index>> voronoiNeighbours(const std::vector<Vec3>& seeds, const RunContext& run) {
    return seeds.empty() ? std::vector<std::vector<Index>>() : VoronoiBuilder(seeds, boundsOf(seeds), {1, 1, 1}, run).neighbours(seeds.size());
}

}  // namespace seedloom
