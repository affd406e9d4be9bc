#include "geometry/MixPlan.h"

namespace seedloom {

Index RowMix::again(Index i) {
    const Index begin = start_[i], end = start_[i + 1];
    for (Index k = begin; k < end; ++k) {
        const Index row = row_[k];  // a copy: the arrays grow
        const float weight = weight_[k];
        part(row, weight);
    }
    return close();
}

std::vector<Index> RowMix::heaviest() const {
    std::vector<Index> out(size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        Index best = start_[i];
        for (Index k = best; k < start_[i + 1]; ++k)
            if (weight_[k] > weight_[best]) best = k;
        out[i] = row_[best];
    }
    return out;
}

Column RowMix::apply(const Column& column) const {
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            constexpr bool kMixes = !std::is_same_v<T, std::string> && !std::is_integral_v<T>;
            if constexpr (!kMixes) {
                return gather(column, heaviest());
            } else {
                std::vector<T> out(size());
                for (std::size_t i = 0; i < out.size(); ++i) {
                    const Index begin = start_[i], end = start_[i + 1];
                    if (end - begin == 1) {
                        out[i] = (*shared)[row_[begin]];
                        continue;
                    }
                    T sum{};
                    for (Index k = begin; k < end; ++k) sum = sum + (*shared)[row_[k]] * weight_[k];
                    out[i] = sum;
                }
                return Column(std::move(out));
            }
        },
        column.data());
}

void MixPlan::addCurvesAndLoosePoints(const Geometry& from, std::vector<Index>& number) {
    const Topology& t = from.topology();
    const auto take = [&](Index p) {
        if (number[p] == ~Index{0}) number[p] = points.add(p);
        return number[p];
    };
    for (Index c = 0; c < t.curveCount(); ++c) {
        for (Index p : t.curve(c)) curvePoint.push_back(take(p));
        endCurve(c, t.curveClosed(c));
    }
    std::vector<std::uint8_t> used(from.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p = 0; p < used.size(); ++p)
        if (!used[p]) take(p);
}

Geometry takeMixed(const Geometry& from, MixPlan plan, std::vector<Vec3> positions) {
    if (positions.empty() && plan.points.size() > 0) positions = *plan.points.apply(*from.column(Element::point, "position")).as<Vec3>();
    const std::size_t points = positions.size();
    Geometry out(std::move(positions), Topology(points, std::move(plan.faceStart), std::move(plan.cornerPoint), std::move(plan.curveStart),
                                                std::move(plan.curvePoint), std::move(plan.curveClosed)));
    for (const auto& [name, column] : from.table(Element::point))
        if (name != "position") out.setColumn(Element::point, name, plan.points.apply(column));
    for (const auto& [name, column] : from.table(Element::corner)) out.setColumn(Element::corner, name, plan.corners.apply(column));
    for (const auto& [name, column] : from.table(Element::face)) out.setColumn(Element::face, name, gather(column, plan.faces));
    for (const auto& [name, column] : from.table(Element::curve)) out.setColumn(Element::curve, name, gather(column, plan.curves));
    for (const auto& [name, column] : from.table(Element::model)) out.setColumn(Element::model, name, column);
    if (from.copies()) {
        out.setCopies(from.sharedCopies());
        for (const auto& [name, column] : from.table(Element::copy)) out.setColumn(Element::copy, name, column);
    }
    return out;
}

void tagKind(Geometry& geometry, const char* tag, const FaceKinds& kinds, std::uint8_t kind) {
    const auto* before = geometry.values<std::uint8_t>(Element::face, tag);
    std::vector<std::uint8_t> values(kinds.size(), 0);
    for (std::size_t f = 0; f < values.size(); ++f) values[f] = kinds[f] == 0 ? std::uint8_t(before && (*before)[f]) : std::uint8_t(kinds[f] == kind);
    geometry.setColumn(Element::face, tag, Column(std::move(values)));
}

}  // namespace seedloom
