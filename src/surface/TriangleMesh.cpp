#include "surface/TriangleMesh.h"

namespace seedloom {

TriangleMesh::TriangleMesh(const Geometry& g) {
    const Topology& t = g.topology();
    const EdgeTable& edges = t.edges();
    from_ = t.cornerPoint();
    twin_.assign(from_.size(), kNone);
    kept.assign(from_.size(), 0);
    place = g.positions();
    out_.assign(place.size(), kNone);
    pointOf.resize(place.size());
    for (Index p = 0; p < place.size(); ++p) pointOf[p] = p;
    std::vector<Index> first(edges.edges.size(), kNone);
    for (Index h = 0; h < from_.size(); ++h) {
        Index& other = first[edges.cornerEdge[h]];
        if (other == kNone) other = h;
        else link(h, other);
    }
    // One fan keeps the point, others get copies of it.
    std::vector<std::uint8_t> seen(from_.size(), 0);
    for (Index h = 0; h < from_.size(); ++h) {
        if (seen[h]) continue;
        Index p = from_[h];
        if (out_[p] != kNone) {
            place.push_back(place[p]), pointOf.push_back(pointOf[p]), out_.push_back(kNone);
            p = Index(place.size() - 1);
        }
        out_[p] = h;
        Index at = h;
        do {  // one way round …
            seen[at] = 1, from_[at] = p;
            at = twin_[prev(at)];
        } while (at != kNone && at != h);
        if (at == kNone)  // … and, from an open edge, the other
            for (at = h; twin_[at] != kNone;) {
                at = next(twin_[at]);
                seen[at] = 1, from_[at] = p;
            }
    }
    length.assign(place.size(), 0);
}

Index TriangleMesh::firstOut(Index p) const {
    const Index start = out_[p];
    Index h = start;
    while (twin_[h] != kNone) {
        h = next(twin_[h]);
        if (h == start) break;
    }
    return h;
}

void TriangleMesh::around(Index p, std::vector<Index>& out) const {
    out.clear();
    const Index start = firstOut(p);
    Index h = start;
    do {
        out.push_back(h);
        h = twin_[prev(h)];
    } while (h != kNone && h != start);
}

Index TriangleMesh::split(Index h) {
    const Index g = twin_[h], a = from_[h], b = to(h), c = from_[prev(h)];
    const auto m = Index(place.size());
    place.push_back((place[a] + place[b]) * 0.5f);
    length.push_back((length[a] + length[b]) * 0.5f);
    pointOf.push_back(pointOf[a]);
    out_.push_back(kNone);
    const auto addFace = [&](Index x, Index y, Index z) {
        const auto f = Index(from_.size());
        from_.insert(from_.end(), {x, y, z});
        twin_.insert(twin_.end(), 3, kNone);
        kept.insert(kept.end(), 3, 0);
        return f;
    };
    // (a, b, c) becomes (a, m, c) and (m, b, c).
    const Index hb = next(h), bc = twin_[hb];
    const std::uint8_t keptBc = kept[hb], keptAb = kept[h];
    const Index n = addFace(m, b, c);
    from_[hb] = m;
    kept[hb] = 0;
    kept[n] = keptAb, kept[n + 1] = keptBc;
    link(n + 1, bc);
    link(n + 2, hb);
    out_[m] = n;
    out_[b] = n + 1;
    if (g == kNone) {
        twin_[h] = kNone;
        return m;
    }
    // (b, a, d) becomes (m, a, d) and (b, m, d).
    const Index gp = prev(g), db = twin_[gp], d = from_[gp];
    const std::uint8_t keptDb = kept[gp];
    const Index k = addFace(b, m, d);
    from_[g] = m;
    kept[gp] = 0;
    kept[k] = keptAb, kept[k + 2] = keptDb;
    link(k + 2, db);
    link(k + 1, gp);
    link(h, g);
    link(n, k);
    out_[b] = k;
    out_[d] = k + 2;
    return m;
}

bool TriangleMesh::canCollapse(Index h) {
    const Index a = from_[h], b = to(h), g = twin_[h];
    around(a, ringA_);
    around(b, ringB_);
    const auto neighbours = [&](const std::vector<Index>& ring, std::vector<Index>& list) {
        list.clear();
        for (Index e : ring) list.push_back(to(e));
        // The last one before an open edge is the start of the edge that comes in.
        if (twin_[prev(ring.back())] == kNone) list.push_back(from_[prev(ring.back())]);
    };
    static thread_local std::vector<Index> ofA, ofB;
    neighbours(ringA_, ofA), neighbours(ringB_, ofB);
    const bool openA = twin_[ringA_.front()] == kNone, openB = twin_[ringB_.front()] == kNone;
    if (g != kNone && openA && openB) return false;  // it would pinch the border together
    std::size_t common = 0;
    for (Index p : ofA) common += std::size_t(std::count(ofB.begin(), ofB.end(), p));
    if (common != (g == kNone ? 1u : 2u)) return false;
    // A triangle over a triangle would become two faces back to back.
    return ofA.size() + ofB.size() > (openA || openB ? 5u : 7u);
}

void TriangleMesh::takeBack(std::size_t mark) {
    while (notes_.size() > mark) {
        const Note& note = notes_.back();
        (this->*note.list)[note.at] = note.before;
        notes_.pop_back();
    }
}

void TriangleMesh::collapse(Index h) {
    const Index a = from_[h], b = to(h), g = twin_[h];
    around(b, ringB_);
    for (Index e : ringB_) put(&TriangleMesh::from_, e, a);
    const auto removeFace = [&](Index e) {
        // The two other sides become one edge.
        const Index x = twin_[next(e)], y = twin_[prev(e)];
        const std::uint8_t keep = kept[next(e)] | kept[prev(e)];
        const Index c = from_[prev(e)];
        link(x, y);
        if (x != kNone) kept[x] = keep;
        if (y != kNone) kept[y] = keep;
        // Of the points around, another half edge has to be known.
        const Index leavesA = y != kNone ? y : x != kNone ? next(x) : kNone;  // from a
        const Index leavesC = x != kNone ? x : y != kNone ? next(y) : kNone;  // from c
        for (Index k : {e, next(e), prev(e)}) put(&TriangleMesh::from_, k, kNone);
        return std::array<Index, 3>{leavesA, c, leavesC};
    };
    const auto one = removeFace(h);
    std::array<Index, 3> other{kNone, kNone, kNone};
    if (g != kNone) other = removeFace(g);
    put(&TriangleMesh::out_, b, kNone);
    put(&TriangleMesh::out_, one[1], one[2]);
    if (other[1] != kNone) put(&TriangleMesh::out_, other[1], other[2]);
    // Which of them leaves a depends on the side; whichever does is good.
    for (Index candidate : {one[0], one[2], other[0], other[2]})
        for (Index e : {candidate, candidate == kNone ? kNone : next(candidate), candidate == kNone ? kNone : prev(candidate)})
            if (e != kNone && from_[e] == a) put(&TriangleMesh::out_, a, e);
    for (Index p : {one[1], other[1]})
        if (p != kNone)
            for (Index candidate : {one[0], one[2], other[0], other[2]})
                for (Index e : {candidate, candidate == kNone ? kNone : next(candidate), candidate == kNone ? kNone : prev(candidate)})
                    if (e != kNone && from_[e] == p) put(&TriangleMesh::out_, p, e);
}

bool TriangleMesh::flip(Index h) {
    const Index g = twin_[h];
    if (g == kNone) return false;
    const Index a = from_[h], b = to(h), c = from_[prev(h)], d = from_[prev(g)];
    if (c == d) return false;
    around(c, ringA_);
    for (Index e : ringA_)
        if (to(e) == d || from_[prev(e)] == d) return false;
    const Index bc = twin_[next(h)], ca = twin_[prev(h)], ad = twin_[next(g)], db = twin_[prev(g)];
    const std::uint8_t kbc = kept[next(h)], kca = kept[prev(h)], kad = kept[next(g)], kdb = kept[prev(g)];
    const Index h0 = h - h % 3, g0 = g - g % 3;
    // (a, b, c) and (b, a, d) become (c, d, b) and (d, c, a).
    from_[h0] = c, from_[h0 + 1] = d, from_[h0 + 2] = b;
    from_[g0] = d, from_[g0 + 1] = c, from_[g0 + 2] = a;
    link(h0, g0);
    twin_[h0 + 1] = twin_[h0 + 2] = twin_[g0 + 1] = twin_[g0 + 2] = kNone;
    link(h0 + 1, db), link(h0 + 2, bc), link(g0 + 1, ca), link(g0 + 2, ad);
    kept[h0] = kept[g0] = 0, kept[h0 + 1] = kdb, kept[h0 + 2] = kbc, kept[g0 + 1] = kca, kept[g0 + 2] = kad;
    out_[a] = g0 + 2, out_[b] = h0 + 2, out_[c] = h0, out_[d] = g0;
    return true;
}

Geometry TriangleMesh::compact(std::vector<Index>* pointsOf) const {
    std::vector<Index> number(place.size(), kNone), corners, start{0};
    std::vector<Vec3> places;
    for (Index h = 0; h < from_.size(); ++h)
        if (alive(h)) number[from_[h]] = 0;
    for (Index p = 0; p < place.size(); ++p) {
        if (number[p] == kNone) continue;
        number[p] = Index(places.size());
        places.push_back(place[p]);
        if (pointsOf) pointsOf->push_back(p);
    }
    for (Index h = 0; h < from_.size(); ++h) {
        if (!alive(h)) continue;
        corners.push_back(number[from_[h]]);
        if (h % 3 == 2) start.push_back(Index(corners.size()));
    }
    const std::size_t count = places.size();
    return Geometry(std::move(places), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
}

}  // namespace seedloom
