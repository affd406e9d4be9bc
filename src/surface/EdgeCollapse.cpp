#include "surface/EdgeCollapse.h"

#include <queue>

namespace seedloom {

namespace {

/// The sum of squared distances to planes, weighted by area.
struct Quadric {
    double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0, x = 0, y = 0, z = 0, one = 0, weight = 0;

    void addPlane(Vec3 n, Vec3 at, double w) {
        const double a = double(n.x), b = double(n.y), c = double(n.z), d = -(a * double(at.x) + b * double(at.y) + c * double(at.z));
        xx += w * a * a, xy += w * a * b, xz += w * a * c, yy += w * b * b, yz += w * b * c, zz += w * c * c;
        x += w * a * d, y += w * b * d, z += w * c * d, one += w * d * d, weight += w;
    }
    void add(const Quadric& o) {
        xx += o.xx, xy += o.xy, xz += o.xz, yy += o.yy, yz += o.yz, zz += o.zz;
        x += o.x, y += o.y, z += o.z, one += o.one, weight += o.weight;
    }
    double at(Vec3 p) const {
        const double a = double(p.x), b = double(p.y), c = double(p.z);
        return std::max(0.0, a * a * xx + b * b * yy + c * c * zz + 2 * (a * b * xy + a * c * xz + b * c * yz + a * x + b * y + c * z) + one);
    }
};

struct Collapse {
    double cost;
    Index edge;
    std::uint32_t stamp;  ///< of its newer end when it was weighed
    bool second;          ///< the dearer of an edge's two ways, tried where the other can't be gone
    bool operator<(const Collapse& o) const { return cost != o.cost ? cost > o.cost : edge > o.edge; }  // the least comes first
};

class Simplifier {
public:
    Simplifier(TriangleMesh mesh, const SimplifyLimits& limits, const RunContext& run) : mesh_(std::move(mesh)), limits_(limits), run_(run) {}

    std::vector<Index> result() {
        weighPoints();
        stamp_.assign(mesh_.points(), 0);
        std::size_t left = mesh_.halfEdges() / 3;
        for (Index h = 0; h < mesh_.halfEdges(); ++h)
            if (mesh_.twin(h) == kNone || h < mesh_.twin(h)) offer(h);
        for (std::size_t count = 0; left > limits_.target && !steps_.empty(); ++count) {
            if (count % 4096 == 0) run_.poll();
            const Collapse step = steps_.top();
            steps_.pop();
            if (!mesh_.alive(step.edge) || stampOf(step.edge) != step.stamp) continue;
            if (folds(step.edge) || !mesh_.canCollapse(step.edge)) {
                const Index other = mesh_.twin(step.edge);
                if (!step.second && other != kNone) push(other, costOf(other), true);
                continue;
            }
            left -= mesh_.twin(step.edge) == kNone ? 1 : 2;
            draw(step.edge);
        }
        std::vector<Index> out;
        for (Index h = 0; h < mesh_.halfEdges(); ++h)
            if (mesh_.alive(h)) out.push_back(mesh_.pointOf[mesh_.from(h)]);
        return out;
    }

private:
    Vec3 place(Index p) const { return mesh_.place[p]; }
    std::uint32_t stampOf(Index h) const { return std::max(stamp_[mesh_.from(h)], stamp_[mesh_.to(h)]); }

    void weighPoints() {
        quadric_.resize(mesh_.points());
        for (Index h = 0; h < mesh_.halfEdges(); ++h) {
            const Vec3 a = place(mesh_.from(h)), b = place(mesh_.to(h)), c = place(mesh_.from(TriangleMesh::prev(h)));
            const Vec3 n = cross(b - a, c - a);
            quadric_[mesh_.from(h)].addPlane(normalized(n, {}), a, double(length(n)) / 6);
            if (mesh_.twin(h) != kNone) continue;
            // A wall along the open edge holds its outline.
            const Vec3 wall = normalized(cross(b - a, n), {});
            const double w = double(dot(b - a, b - a));
            quadric_[mesh_.from(h)].addPlane(wall, a, w), quadric_[mesh_.to(h)].addPlane(wall, a, w);
        }
    }
    /// What drawing an edge together into its start costs; where nothing bends, short edges go first.
    double costOf(Index h) const {
        const Index a = mesh_.from(h), b = mesh_.to(h);
        Quadric q = quadric_[a];
        q.add(quadric_[b]);
        const Vec3 by = place(b) - place(a);
        return q.at(place(a)) + 1e-12 * q.weight * double(dot(by, by));
    }
    /// The cheaper way of an edge.
    void offer(Index h) {
        const double cost = costOf(h);
        const Index other = mesh_.twin(h);
        if (other == kNone) return push(h, cost, true);
        const double back = costOf(other);
        back < cost ? push(other, back, false) : push(h, cost, false);
    }
    void push(Index h, double cost, bool second) {
        const Index a = mesh_.from(h), b = mesh_.to(h);
        const bool held = limits_.holdOpenEdges && mesh_.border(b);
        const bool far = limits_.error > 0 && cost > (quadric_[a].weight + quadric_[b].weight) * limits_.error * limits_.error;
        if (held || far) {
            if (!second && mesh_.twin(h) != kNone) push(mesh_.twin(h), costOf(mesh_.twin(h)), true);
            return;
        }
        steps_.push({cost, h, stampOf(h), second});
    }
    /// Whether a face would turn over.
    bool folds(Index h) {
        const Index a = mesh_.from(h), b = mesh_.to(h);
        mesh_.around(b, ring_);
        for (Index e : ring_) {
            const Index p = mesh_.to(e), q = mesh_.from(TriangleMesh::prev(e));
            if (p == a || q == a) continue;
            const Vec3 before = cross(place(p) - place(b), place(q) - place(b)), after = cross(place(p) - place(a), place(q) - place(a));
            if (dot(before, after) <= 0.2f * length(before) * length(after)) return true;
        }
        return false;
    }
    void draw(Index h) {
        const Index a = mesh_.from(h), b = mesh_.to(h);
        quadric_[a].add(quadric_[b]);
        mesh_.collapse(h);
        stamp_[a] = ++clock_;
        mesh_.around(a, ring_);
        for (Index e : ring_) offer(e);
        if (const Index last = TriangleMesh::prev(ring_.back()); mesh_.twin(last) == kNone) offer(last);
    }

    TriangleMesh mesh_;
    const SimplifyLimits& limits_;
    const RunContext& run_;
    std::vector<Quadric> quadric_;
    std::vector<std::uint32_t> stamp_;
    std::uint32_t clock_ = 0;
    std::priority_queue<Collapse> steps_;
    std::vector<Index> ring_;
};

}  // namespace

std::vector<Index> collapsedSoundly(TriangleMesh mesh, const SimplifyLimits& limits, const RunContext& run) {
    return Simplifier(std::move(mesh), limits, run).result();
}

}  // namespace seedloom
