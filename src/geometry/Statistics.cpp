#include "geometry/Statistics.h"

#include <limits>

namespace seedloom {

namespace {

double valueOf(const Column& column, std::size_t row, int component) {
    const int parts = componentCount(column.type());
    if (component >= 0 || parts == 1) return column.component(row, std::max(component, 0));
    double sum = 0;
    for (int c = 0; c < parts; ++c) sum += column.component(row, c) * column.component(row, c);
    return std::sqrt(sum);
}

}  // namespace

Statistics statisticsOf(const Column& column, int component, std::size_t bars) {
    Statistics out;
    if (column.type() == ColumnType::text || component >= componentCount(column.type())) return out;
    out.least = std::numeric_limits<double>::max();
    out.most = std::numeric_limits<double>::lowest();
    double sum = 0, squares = 0;
    for (std::size_t i = 0; i < column.size(); ++i) {
        const double v = valueOf(column, i, component);
        if (!std::isfinite(v)) {
            ++out.nonFinite;
            continue;
        }
        ++out.count;
        // Welford's running mean: no loss of digits where values are large and close together.
        const double from = v - sum;
        sum += from / double(out.count);
        squares += from * (v - sum);
        out.least = std::min(out.least, v);
        out.most = std::max(out.most, v);
    }
    if (out.count == 0) {
        out.least = out.most = 0;
        return out;
    }
    out.mean = sum;
    out.deviation = std::sqrt(squares / double(out.count));
    out.bars.assign(bars, 0);
    for (std::size_t i = 0; bars > 0 && i < column.size(); ++i) {
        const double v = valueOf(column, i, component);
        if (!std::isfinite(v)) continue;
        const double part = out.most > out.least ? (v - out.least) / (out.most - out.least) : 0.5;
        ++out.bars[std::min(std::size_t(part * double(bars)), bars - 1)];
    }
    return out;
}

}  // namespace seedloom
