#include "geometry/ElementTransfer.h"

#include "geometry/Measures.h"

#include <numeric>
#include <set>

namespace seedloom {

std::optional<FoundColumn> findColumn(const Geometry& geometry, std::string_view name, Element wanted) {
    if (const Column* own = geometry.column(wanted, name)) return FoundColumn{*own, wanted};
    for (Element element : kAllElements)
        if (const Column* column = geometry.column(element, name)) return FoundColumn{*column, element};
    return {};
}

namespace {

/// For every element of `to`, the rows of `from` that touch it.
Rows touching(const Geometry& g, Element from, Element to) {
    const Topology& t = g.topology();
    std::vector<std::pair<Index, Index>> pairs;  // (to, from)
    const auto pointsOf = [&](Element element, auto&& use) {
        if (element == Element::point)
            for (Index p = 0; p < g.pointCount(); ++p) use(p, p);
        if (element == Element::corner)
            for (Index c = 0; c < g.cornerCount(); ++c) use(c, t.cornerPoint()[c]);
        if (element == Element::face)
            for (Index f = 0; f < g.faceCount(); ++f)
                for (Index p : t.face(f)) use(f, p);
        if (element == Element::curve)
            for (Index c = 0; c < g.curveCount(); ++c)
                for (Index p : t.curve(c)) use(c, p);
    };
    const bool corners = (from == Element::corner && to == Element::face) || (from == Element::face && to == Element::corner);
    if (corners) {
        for (Index c = 0; c < g.cornerCount(); ++c) {
            const Index f = t.faceOfCorner()[c];
            pairs.push_back(to == Element::face ? std::pair{f, c} : std::pair{c, f});
        }
    } else if (to == Element::point) {
        pointsOf(from, [&](Index element, Index p) { pairs.push_back({p, element}); });
    } else if (from == Element::point) {
        pointsOf(to, [&](Index element, Index p) { pairs.push_back({element, p}); });
    }
    Rows rows;
    rows.start.assign(g.count(to) + 1, 0);
    for (auto [target, source] : pairs) ++rows.start[target + 1];
    std::partial_sum(rows.start.begin(), rows.start.end(), rows.start.begin());
    rows.values.resize(pairs.size());
    std::vector<Index> fill(rows.start.begin(), rows.start.end() - 1);
    for (auto [target, source] : pairs) rows.values[fill[target]++] = source;
    return rows;
}

template <class T> double partOf(const T& value, int c) {
    if constexpr (std::is_arithmetic_v<T>) return double(value);
    else return double((&value.x)[c]);
}

double combined(double so, double value, Combine by) {
    return by == Combine::minimum ? std::min(so, value) : by == Combine::maximum ? std::max(so, value) : so + value;
}

template <class T> T combinedOf(const std::vector<T>& values, std::span<const Index> rows, Combine by) {
    if (rows.empty()) return T{};
    if constexpr (std::is_same_v<T, std::string>) {
        return values[rows.front()];
    } else {
        if (by == Combine::first) return values[rows.front()];
        constexpr int components = std::is_arithmetic_v<T> ? 1 : int(sizeof(T) / sizeof(float));
        T out{};
        for (int c = 0; c < components; ++c) {
            double all = partOf(values[rows.front()], c);
            for (Index r : rows.subspan(1)) all = combined(all, partOf(values[r], c), by);
            if (by == Combine::average) all /= double(rows.size());
            if constexpr (std::is_same_v<T, std::uint8_t>) out = all >= 0.5;
            else if constexpr (std::is_same_v<T, std::int32_t>) out = std::int32_t(std::clamp(std::floor(all + 0.5), -2147483648.0, 2147483647.0));
            else if constexpr (std::is_arithmetic_v<T>) out = static_cast<T>(all);
            else (&out.x)[c] = static_cast<float>(all);
        }
        return out;
    }
}

}  // namespace

Column changeElement(const Geometry& geometry, const Column& column, Element from, Element to, Combine by) {
    if (from == to) return column;
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            const std::vector<T>& values = *shared;
            std::vector<T> out(geometry.count(to));
            if (from == Element::model) {
                std::fill(out.begin(), out.end(), values.front());
            } else if (to == Element::model) {
                std::vector<Index> all(values.size());
                std::iota(all.begin(), all.end(), 0u);
                out.front() = combinedOf(values, std::span<const Index>(all), by);
            } else if (from == Element::point && to == Element::corner) {
                const auto& corners = geometry.topology().cornerPoint();
                for (std::size_t c = 0; c < out.size(); ++c) out[c] = values[corners[c]];
            } else if (from == Element::copy || to == Element::copy) {
                // Copies touch no other element.
            } else {
                // Kinds that only meet at points (face and curve, …) go over the points.
                const bool direct = from == Element::point || to == Element::point || (from != Element::curve && to != Element::curve);
                if (!direct) return changeElement(geometry, changeElement(geometry, column, from, Element::point, by), Element::point, to, by);
                const Rows rows = touching(geometry, from, to);
                for (std::size_t i = 0; i < out.size(); ++i) out[i] = combinedOf(values, rows[i], by);
            }
            return Column(std::move(out));
        },
        column.data());
}

std::optional<Column> columnFor(const Geometry& geometry, std::string_view name, Element wanted) {
    if (const auto found = findColumn(geometry, name, wanted)) {
        if (wanted == Element::copy && name == "position" && geometry.copies()) {
            std::vector<Vec3> places;
            for (const Affine& place : geometry.copies()->place) places.push_back(place.move);
            return Column(std::move(places));
        }
        return changeElement(geometry, found->column, found->element, wanted);
    }
    if (name == "normal") {
        if (wanted == Element::face) return Column(faceNormals(geometry));
        return changeElement(geometry, Column(pointNormals(geometry)), Element::point, wanted);
    }
    if (name == "index") {
        std::vector<std::int32_t> numbers(geometry.count(wanted));
        std::iota(numbers.begin(), numbers.end(), 0);
        return Column(std::move(numbers));
    }
    return {};
}

namespace {

std::size_t editDistance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), 0u);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t up = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, diagonal + (a[i - 1] != b[j - 1])});
            diagonal = up;
        }
    }
    return row.back();
}

}  // namespace

std::vector<std::string> similarNames(std::string_view name, std::vector<std::string> known, std::size_t most) {
    std::stable_sort(known.begin(), known.end(), [&](const auto& a, const auto& b) { return editDistance(name, a) < editDistance(name, b); });
    if (known.size() > most) known.resize(most);
    return known;
}

bool isSlipFor(std::string_view name, std::string_view known) {
    const std::size_t most = std::max<std::size_t>(name.size() < 4 ? 1 : 2, name.size() / 3);
    return editDistance(name, known) <= most || (name.size() > 1 && known.starts_with(name));
}

std::vector<std::string> attributeNames(const Geometry& geometry) {
    std::set<std::string> names;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element)) names.insert(name);
    return {names.begin(), names.end()};
}

}  // namespace seedloom
