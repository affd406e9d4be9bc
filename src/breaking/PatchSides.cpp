#include "breaking/PatchSides.h"

#include <cmath>
#include <numbers>
#include <tuple>

namespace seedloom {

namespace {

constexpr double kDoubtful = 1e-6;   ///< what an edge counts where rounding may have changed the order around it
constexpr double kLeastVote = 1e-3;  ///< of a side's best neighbour: what counts less is an error at a short edge

/// A panel at an edge: how far around the edge it stands, and which of its sides looks on that way.
struct Spoke {
    double angle;
    Index panel;
    bool frontOn;
};

}  // namespace

PatchSides::PatchSides(const ArrangedFaces& arranged, const Geometry& in, const std::vector<std::uint8_t>& wall, double size, const RunContext& run)
    : arranged_(arranged), in_(in), wall_(wall), rounding_(size * 2e-7) {
    std::size_t count = 0;
    for (const auto& edge : arranged.edges()) {
        if (++count % 4096 == 0) run.poll();
        addLinks(edge);
    }
    join(std::move(links_));
}

void PatchSides::addLinks(const ArrangedFaces::Edge& edge) {
    const FinePlace from = fine(arranged_.place(edge.a)), along = minus(fine(arranged_.place(edge.b)), from);
    const double length = std::sqrt(dot(along, along));
    const FinePlace any = std::abs(along[0]) < 0.6 * length ? FinePlace{1, 0, 0} : FinePlace{0, 1, 0};
    const FinePlace u = cross(along, any), v = cross(along, u);
    const double squareOfU = std::sqrt(dot(u, u)), squareOfV = std::sqrt(dot(v, v));
    std::vector<Spoke> spokes;
    for (Index panel : edge.panels) {
        const TrianglePiece& piece = arranged_.panels()[panel].piece;
        const auto corner = [&](Index k) { return fine(in_.positions()[arranged_.pointAt(3 * piece.triangle + k)]); };
        const FinePlace normal = cross(minus(corner(1), corner(0)), minus(corner(2), corner(0)));
        bool forward = false;
        for (std::size_t k = 0; k < 3; ++k) forward |= piece.points[k] == edge.a && piece.points[(k + 1) % 3] == edge.b;
        // Into the panel, across the edge: to the left of it where the panel runs along it.
        FinePlace into = cross(normal, along);
        if (!forward)
            for (double& c : into) c = -c;
        spokes.push_back({std::atan2(dot(into, v) / squareOfV, dot(into, u) / squareOfU), panel, forward});
    }
    std::sort(spokes.begin(), spokes.end(), [](const Spoke& a, const Spoke& b) { return std::tie(a.angle, a.panel) < std::tie(b.angle, b.panel); });
    const auto side = [&](const Spoke& s, bool on) { return 2 * arranged_.patchOf(s.panel) + Index(s.frontOn == on); };
    const double error = length > 0 ? 4 * rounding_ / length : 10;
    std::vector<double> gaps;
    for (std::size_t i = 0; i < spokes.size(); ++i) {
        const bool last = i + 1 == spokes.size();
        gaps.push_back(spokes[last ? 0 : i + 1].angle - spokes[i].angle + (last ? 2 * std::numbers::pi : 0));
    }
    for (std::size_t i = 0; i < spokes.size(); ++i) {
        // A gap is sure where neither of its ends may have changed places with its neighbour.
        const double least = spokes.size() == 1 ? 10 : std::min({gaps[(i + gaps.size() - 1) % gaps.size()], gaps[i], gaps[(i + 1) % gaps.size()]});
        const Spoke& next = spokes[(i + 1) % spokes.size()];
        if (spokes.size() > 2) wedges_[{edge.a, edge.b}].push_back({Side{spokes[i].panel, spokes[i].frontOn}, Side{next.panel, !next.frontOn}});
        links_.push_back({side(spokes[i], true), side(next, false), length * (least > error ? 1 : kDoubtful)});
    }
}

std::optional<PatchSides::Side> PatchSides::across(Index a, Index b, Side side) const {
    const auto found = wedges_.find(std::minmax(a, b));
    if (found == wedges_.end()) return {};
    for (const auto& [one, other] : found->second) {
        if (one == side) return other;
        if (other == side) return one;
    }
    return {};
}

void PatchSides::join(std::vector<Link> links) {
    const std::size_t count = 2 * arranged_.panels().size();
    for (Link& l : links)
        if (l.a > l.b) std::swap(l.a, l.b);
    std::sort(links.begin(), links.end(), [](const Link& x, const Link& y) { return std::tie(x.a, x.b, x.weight) < std::tie(y.a, y.b, y.weight); });
    std::vector<Link> summed;
    for (const Link& l : links)
        if (!summed.empty() && summed.back().a == l.a && summed.back().b == l.b) summed.back().weight += l.weight;
        else summed.push_back(l);
    std::vector<double> best(count, 0);
    for (const Link& l : summed)
        for (Index end : {l.a, l.b}) best[end] = std::max(best[end], l.weight);
    std::sort(summed.begin(), summed.end(), [](const Link& x, const Link& y) { return std::tie(y.weight, x.a, x.b) < std::tie(x.weight, y.a, y.b); });
    enum : std::uint8_t { unknown, inner, outer };
    std::vector<std::uint8_t> where(count, unknown);
    for (Index panel = 0; panel < arranged_.panels().size(); ++panel)
        if (!wall_[arranged_.panels()[panel].piece.triangle]) where[2 * arranged_.patchOf(panel)] = inner, where[2 * arranged_.patchOf(panel) + 1] = outer;
    Groups groups(count);
    for (const Link& l : summed) {
        if (l.weight < kLeastVote * std::min(best[l.a], best[l.b])) continue;
        const Index a = groups.find(l.a), b = groups.find(l.b);
        if (a == b) continue;
        if (where[a] != unknown && where[b] != unknown && where[a] != where[b]) continue;  // an error of rounding, against heavier votes
        const std::uint8_t known = std::max(where[a], where[b]);
        groups.join(a, b);
        where[groups.find(a)] = known;
    }
    shell_.resize(count);
    outside_.assign(count, 0);
    for (Index i = 0; i < count; ++i) {
        shell_[i] = groups.find(i);
        outside_[i] = where[shell_[i]] == outer;
    }
}

}  // namespace seedloom
