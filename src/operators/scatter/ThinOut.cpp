// Method: own: in the order of ids, each kept unless one that is kept is too near.
#include "geometry/Rows.h"
#include "operators/AttributeWork.h"
#include "operators/scatter/Movables.h"
#include "scatter/CopyOverlap.h"
#include "scatter/Spacing.h"

#include <fmt/format.h>

#include <numeric>

namespace seedloom {

namespace {

/// Who is asked first: the higher value of the attribute, of equals the one that comes first.
std::vector<Index> orderOf(OperatorCall& call, const Geometry& in, Element element, std::size_t count) {
    std::vector<Index> order(count);
    std::iota(order.begin(), order.end(), Index{0});
    if (call.text("keep").empty()) return order;
    const FoundColumn found = namedNumbers(call, in, "keep", element);
    const Column each = changeElement(in, found.column, found.element, element);
    const auto value = [&](Index i) {
        const double v = each.component(i, 0);
        return std::isnan(v) ? -std::numeric_limits<double>::infinity() : v;
    };
    std::stable_sort(order.begin(), order.end(), [&](Index a, Index b) { return value(a) > value(b); });
    return order;
}

std::vector<std::uint8_t> byDistance(OperatorCall& call, const Geometry& in, const Movables& things, const std::vector<Index>& order) {
    std::vector<Vec3> at(things.count());
    for (std::size_t i = 0; i < at.size(); ++i) at[i] = things.pivot(i);
    const Field<float> distance = call.each("distance", in, things.element());
    return keptApart(at, distance.uniform ? std::vector<float>{distance.value} : distance.values, order, call.run());
}

std::vector<std::uint8_t> byOverlap(OperatorCall& call, const Geometry& in, const std::vector<Index>& order, bool meshes) {
    constexpr std::size_t kMostPairs = 20'000'000;
    const CopyOverlaps found =
        overlapsOf(in, meshes ? OverlapBy::meshes : OverlapBy::bounds, call.run(), meshes ? 0.0f : float(call.number("gap")), kMostPairs);
    if (found.cut)
        call.fail("thin.crowded", fmt::format("More than {} million pairs of copies are near each other. Thin out by distance first.", kMostPairs / 1'000'000),
                  "by");
    const std::size_t count = in.copyCount();
    // Those that lie on top of each other count as one; who of them stays is for the order to say.
    std::vector<Index> standsFor(count);
    std::iota(standsFor.begin(), standsFor.end(), Index{0});
    for (std::size_t k = 0; k < found.doubled.size(); ++k) standsFor[found.doubled[k]] = found.doubleOf[k];
    std::vector<Index> start(count + 1, 0);
    for (const CopyPair& pair : found.pairs) ++start[pair.first + 1], ++start[pair.second + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<Index> others(found.pairs.size() * 2), fill(start.begin(), start.end() - 1);
    for (const CopyPair& pair : found.pairs) others[fill[pair.first]++] = pair.second, others[fill[pair.second]++] = pair.first;
    std::vector<std::uint8_t> taken(count, 0), kept(count, 0);  // taken: by place
    for (Index i : order) {
        const Index place = standsFor[i];
        bool free = !taken[place];
        for (Index k = start[place]; free && k < start[place + 1]; ++k) free = !taken[others[k]];
        if (free) taken[place] = kept[i] = 1;
    }
    return kept;
}

Geometry computeThinOut(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string by = call.choice("by");
    const Movables things(in);
    if (by != "distance" && things.kind() != Movables::Kind::copies)
        call.fail("thin.no_copies", "There are no copies here whose bounds could meet. Link copies, or thin out by distance.", "by");
    const std::vector<Index> all = orderOf(call, in, things.element(), things.kind() == Movables::Kind::pieces ? in.pointCount() : things.count());
    std::vector<Index> order = all;
    if (things.kind() == Movables::Kind::pieces) {
        // Pieces come in the order of their first points.
        std::vector<std::uint8_t> seen(things.count(), 0);
        order.clear();
        for (Index p : all)
            if (const Index piece = in.topology().connection().pieceOfPoint[p]; !seen[piece]++) order.push_back(piece);
    }
    std::vector<std::uint8_t> kept = by == "distance" ? byDistance(call, in, things, order) : byOverlap(call, in, order, by == "meshes");
    const Field<float> where = call.weights(in, things.element());
    for (std::size_t i = 0; i < kept.size(); ++i) kept[i] |= !(where[things.row(i)] > 0.5f);
    const auto gone = std::size_t(std::count(kept.begin(), kept.end(), 0));
    call.tell(NoticeLevel::info, "thin.gone", fmt::format("{} of {} went; {} are left.", gone, kept.size(), kept.size() - gone),
              by == "distance" ? "distance" : "by");
    return gone == 0 ? in : things.kept(kept);
}

}  // namespace

OperatorSpec thinOutOperator() {
    OperatorSpec spec;
    spec.id = "thin_out";
    spec.order = 840;
    spec.label = "Thin out";
    spec.family = Family::scatter;
    spec.sentence = "Takes away copies or points that are too near to others.";
    spec.help =
        "By distance nothing is left nearer to another than its own distance. By bounds no two copies' boxes, turned as the copies are, reach into each other; "
        "by meshes no two copies' faces, which is slower and lets them "
        "stand closer. Copies that only touch stay. Of copies on top of each other one is left. One after another is asked, in their order or from the highest "
        "value of an attribute down, and stays where it has room. Reports how many went.";
    spec.synonyms = {"prune", "remove overlapping", "doubled", "duplicates", "minimum distance", "collide", "reduce points", "cull"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("by", "By", {"distance", "bounds", "meshes"}, "distance")
            .helped("What has to be free of others: a distance, the copies' boxes, or their faces."),
        numberSetting("distance", "Distance", Unit::metre, 0.1)
            .atLeast(0)
            .slider(0, 1)
            .each()
            .when("by", {"distance"})
            .helped("How far apart they must be at least."),
        numberSetting("gap", "Gap", Unit::metre, 0).atLeast(0).slider(0, 0.2).when("by", {"bounds"}).helped("Room that must be left between their boxes."),
        textSetting("keep", "Keep", "").helped("An attribute: the higher it is, the sooner one stays; empty: the first ones stay."),
        whereSetting(Element::point),
    };
    spec.sample = sample::merged(sample::step(spec.id, {{"by", "bounds"}}, {sample::boxesOnHill({{"count", 600}})}), sample::hill());
    spec.compute = computeThinOut;
    return spec;
}

}  // namespace seedloom
