#include "geometry/Difference.h"

#include "geometry/Measures.h"

#include <bit>
#include <cmath>
#include <unordered_map>

namespace seedloom {

namespace {

bool sameConnection(const Geometry& a, const Geometry& b) {
    if (a.sharedTopology() == b.sharedTopology()) return true;
    const Topology &s = a.topology(), &t = b.topology();
    return s.pointCount() == t.pointCount() && s.faceStart() == t.faceStart() && s.cornerPoint() == t.cornerPoint() && s.curveStart() == t.curveStart() &&
           s.curvePoint() == t.curvePoint();
}

/// Rows of points by their `id`; nothing where an id is missing or stands twice.
std::optional<std::unordered_map<std::int32_t, Index>> rowsById(const Geometry& g) {
    const auto* ids = g.values<std::int32_t>(Element::point, "id");
    if (!ids) return {};
    std::unordered_map<std::int32_t, Index> out;
    out.reserve(ids->size());
    for (Index i = 0; i < ids->size(); ++i)
        if (!out.emplace((*ids)[i], i).second) return {};
    return out;
}

struct PlaceHash {
    std::size_t operator()(const Vec3& p) const {
        std::uint64_t h = 0;
        for (int c = 0; c < 3; ++c) h = (h ^ std::bit_cast<std::uint32_t>(p[c] + 0.0f)) * 0x9E3779B97F4A7C15u, h ^= h >> 29;  // + 0: −0 is 0
        return h;
    }
};

/// The point of `before` that each point of `after` was.
std::vector<Index> matchByPlace(const Geometry& before, const Geometry& after) {
    // Points at one place are a chain, first one first.
    std::unordered_map<Vec3, Index, PlaceHash> first;
    first.reserve(before.pointCount());
    std::vector<Index> next(before.pointCount(), kNoRow), out(after.pointCount(), kNoRow);
    for (Index i = static_cast<Index>(before.pointCount()); i-- > 0;) {
        const auto [it, fresh] = first.try_emplace(before.positions()[i], i);
        if (!fresh) next[i] = it->second, it->second = i;
    }
    for (Index i = 0; i < after.pointCount(); ++i) {
        const auto it = first.find(after.positions()[i]);
        if (it == first.end() || it->second == kNoRow) continue;
        out[i] = it->second;
        it->second = next[it->second];
    }
    return out;
}

std::vector<Index> match(const Geometry& before, const Geometry& after, MatchedBy& by) {
    std::vector<Index> out(after.pointCount());
    by = MatchedBy::number;
    if (sameConnection(before, after)) {
        for (Index i = 0; i < out.size(); ++i) out[i] = i;
        return out;
    }
    const auto old = rowsById(before), now = rowsById(after);
    if (old && now) {
        by = MatchedBy::id;
        const auto& ids = *after.values<std::int32_t>(Element::point, "id");
        for (std::size_t i = 0; i < out.size(); ++i) {
            const auto it = old->find(ids[i]);
            out[i] = it == old->end() ? kNoRow : it->second;
        }
        return out;
    }
    by = MatchedBy::place;
    return matchByPlace(before, after);
}

/// A face as its points in `before`, from the least one on and around, so that where it begins does not matter.
std::vector<Index> faceKey(std::span<const Index> face, const std::vector<Index>* was) {
    std::vector<Index> out(face.begin(), face.end());
    if (was)
        for (Index& p : out) p = (*was)[p];
    std::rotate(out.begin(), std::min_element(out.begin(), out.end()), out.end());
    return out;
}

struct KeyHash {
    std::size_t operator()(const std::vector<Index>& key) const {
        std::uint64_t h = key.size();
        for (Index p : key) h = (h ^ p) * 0x9E3779B97F4A7C15u, h ^= h >> 29;
        return h;
    }
};

void compareFaces(const Geometry& before, const Geometry& after, const std::vector<Index>& was, Difference& out) {
    std::unordered_map<std::vector<Index>, std::vector<Index>, KeyHash> old;
    old.reserve(before.faceCount());
    for (Index f = 0; f < before.faceCount(); ++f) old[faceKey(before.topology().face(f), nullptr)].push_back(f);
    for (Index f = 0; f < after.faceCount(); ++f) {
        const auto face = after.topology().face(f);
        const bool known = std::none_of(face.begin(), face.end(), [&](Index p) { return was[p] == kNoRow; });
        const auto it = known ? old.find(faceKey(face, &was)) : old.end();
        if (it == old.end() || it->second.empty()) {
            out.addedFaces[f] = 1;
            ++out.addedFaceCount;
        } else {
            out.wasFace[f] = it->second.back();
            it->second.pop_back();
        }
    }
    for (const auto& [key, left] : old) out.removedFaces.insert(out.removedFaces.end(), left.begin(), left.end());
    std::sort(out.removedFaces.begin(), out.removedFaces.end());
}

}  // namespace

Difference differenceOf(const Geometry& before, const Geometry& after) {
    Difference out;
    out.was = match(before, after, out.matchedBy);
    const std::vector<Index>& was = out.was;
    out.moved.resize(after.pointCount(), 0);
    out.added.resize(after.pointCount(), 0);
    out.addedFaces.resize(after.faceCount(), 0);
    std::vector<std::uint8_t> kept(before.pointCount(), 0);
    for (std::size_t i = 0; i < was.size(); ++i) {
        if (was[i] == kNoRow) {
            out.added[i] = 1;
            ++out.addedCount;
            continue;
        }
        kept[was[i]] = 1;
        out.moved[i] = distance(before.positions()[was[i]], after.positions()[i]);
        if (out.moved[i] != 0) ++out.movedCount;
        if (std::isfinite(out.moved[i])) out.farthest = std::max(out.farthest, out.moved[i]);
    }
    for (Index i = 0; i < kept.size(); ++i)
        if (!kept[i]) out.removed.push_back(i);
    out.wasFace.resize(after.faceCount(), kNoRow);
    if (out.matchedBy != MatchedBy::number) compareFaces(before, after, was, out);
    else
        for (Index f = 0; f < out.wasFace.size(); ++f) out.wasFace[f] = f;
    return out;
}

}  // namespace seedloom
