#include "graph/Tidy.h"

#include "graph/Draft.h"

#include <algorithm>
#include <map>
#include <set>

namespace seedloom {

namespace {

/// The graph by numbers: nodes that stand on the grid, and links between them that close no ring.
struct Net {
    std::vector<const Node*> nodes;
    std::vector<std::pair<std::size_t, std::size_t>> links;
    std::vector<std::vector<std::size_t>> feeds, followers;  ///< by node, in the order of links
};

struct CardPlace {
    int column = 0, row = 0;
};

Net netOf(const Loom& loom) {
    Net net;
    std::map<std::string_view, std::size_t> number;
    for (const Node& node : loom.nodes) {
        number.emplace(node.id, net.nodes.size());
        net.nodes.push_back(&node);
    }
    net.feeds.resize(net.nodes.size());
    net.followers.resize(net.nodes.size());
    for (const Link& link : loom.links) {
        const auto from = number.find(link.from), to = number.find(link.to);
        if (from == number.end() || to == number.end() || from->second == to->second) continue;
        net.links.push_back({from->second, to->second});
        net.followers[from->second].push_back(to->second);
        net.feeds[to->second].push_back(from->second);
    }
    return net;
}

/// Nodes so that feeds come before what they feed; nodes of rings come last, in their order.
std::vector<std::size_t> sorted(const Net& net) {
    std::vector<std::size_t> waiting(net.nodes.size()), out;
    for (std::size_t i = 0; i < waiting.size(); ++i) waiting[i] = net.feeds[i].size();
    std::vector<bool> done(net.nodes.size(), false);
    for (std::size_t i = 0; i < waiting.size(); ++i)
        if (waiting[i] == 0) out.push_back(i), done[i] = true;
    for (std::size_t at = 0; at < out.size(); ++at)
        for (std::size_t next : net.followers[out[at]])
            if (--waiting[next] == 0) out.push_back(next), done[next] = true;
    for (std::size_t i = 0; i < done.size(); ++i)
        if (!done[i]) out.push_back(i);
    return out;
}

/// Longest path from the start; then what has nothing before it moves to just before its nearest follower.
std::vector<int> columnsOf(const Net& net, const std::vector<std::size_t>& order) {
    std::vector<int> column(net.nodes.size(), 0), rank(net.nodes.size(), 0);
    for (std::size_t i = 0; i < order.size(); ++i) rank[order[i]] = int(i);
    for (std::size_t at : order)
        for (std::size_t feed : net.feeds[at])
            if (rank[feed] < rank[at]) column[at] = std::max(column[at], column[feed] + 1);
    for (auto it = order.rbegin(); it != order.rend(); ++it) {
        int most = 1 << 28;
        for (std::size_t next : net.followers[*it])
            if (rank[next] > rank[*it]) most = std::min(most, column[next] - 1);
        if (most < (1 << 28)) column[*it] = std::max(column[*it], most);
    }
    return column;
}

/// Runs of nodes that follow each other through first inputs; each node is in just one.
std::vector<std::vector<std::size_t>> strandsOf(const Net& net, const std::vector<std::size_t>& order) {
    std::vector<std::size_t> strand(net.nodes.size(), 0);
    std::vector<bool> continued(net.nodes.size(), false), placed(net.nodes.size(), false);
    std::vector<std::vector<std::size_t>> out;
    for (std::size_t at : order) {
        const std::size_t feed = net.feeds[at].empty() ? at : net.feeds[at].front();
        if (feed != at && placed[feed] && !continued[feed]) {
            continued[feed] = true;
            strand[at] = strand[feed];
        } else {
            strand[at] = out.size();
            out.emplace_back();
        }
        placed[at] = true;
        out[strand[at]].push_back(at);
    }
    return out;
}

TidyCost costOf(const std::vector<CardPlace>& place, const std::vector<std::pair<std::size_t, std::size_t>>& links) {
    TidyCost out;
    std::vector<std::pair<int, int>> cards;
    for (const CardPlace& p : place) cards.push_back({p.row, p.column});
    std::sort(cards.begin(), cards.end());
    for (const auto& [from, to] : links) {
        const CardPlace a = place[from], b = place[to];
        out.climbed += std::size_t(std::abs(a.row - b.row));
        const auto first = std::upper_bound(cards.begin(), cards.end(), std::pair(a.row, a.column));
        for (auto it = first; it != cards.end() && it->first == a.row && it->second < b.column; ++it) ++out.overCards;
    }
    // An upright piece crosses a level one that passes its gap between its ends; threads of one node share their way.
    for (const auto& [from, to] : links) {
        const int gap = place[to].column, low = std::min(place[from].row, place[to].row), high = std::max(place[from].row, place[to].row);
        if (low == high) continue;
        for (const auto& [otherFrom, otherTo] : links) {
            if (otherFrom == from || otherTo == to) continue;
            const CardPlace a = place[otherFrom], b = place[otherTo];
            if (a.column < gap && b.column >= gap && a.row > low && a.row < high) ++out.crossings;
            // Two upright pieces in one gap that overlap can't be told apart.
            else if (b.column == gap && a.row != b.row && std::min(a.row, b.row) < high && std::max(a.row, b.row) > low &&
                     (a.row < b.row) != (place[from].row < place[to].row))
                ++out.crossings;
        }
    }
    return out;
}

double weightOf(const TidyCost& cost) { return double(cost.overCards) * 12 + double(cost.crossings) * 4 + double(cost.climbed); }

class Layout {
public:
    explicit Layout(const Loom& loom) : net_(netOf(loom)) {
        const auto order = sorted(net_);
        column_ = columnsOf(net_, order);
        strands_ = strandsOf(net_, order);
        // Strands in the order in which they stand now.
        const auto standing = [&](const auto& strand) { return std::pair(net_.nodes[strand.front()]->cell.row, net_.nodes[strand.front()]->cell.column); };
        std::stable_sort(strands_.begin(), strands_.end(), [&](const auto& a, const auto& b) { return standing(a) < standing(b); });
    }

    std::vector<CardPlace> run() {
        place_ = placed(strands_);
        best_ = weightOf(costOf(place_, net_.links));
        const std::size_t reach = strands_.size() > 16 ? net_.links.size() > 200 ? 2 : 4 : strands_.size();
        constexpr int kRounds = 6;
        for (int round = 0; round < kRounds; ++round)
            if (!improve(reach)) break;
        // What stands well already stays: another layout that is no better would only make people look for their nodes.
        if (const auto standing = present(); !standing.empty() && weightOf(costOf(standing, net_.links)) <= best_) return standing;
        return place_;
    }

private:
    /// The layout as it is, where it keeps to the rules: right columns, no card on another, no row left empty.
    std::vector<CardPlace> present() const {
        std::vector<CardPlace> out;
        std::set<std::pair<int, int>> cells;
        std::set<int> rows;
        for (std::size_t i = 0; i < net_.nodes.size(); ++i) {
            const Cell cell = net_.nodes[i]->cell;
            if (cell.column != column_[i] || !cells.insert({cell.row, cell.column}).second) return {};
            rows.insert(cell.row);
            out.push_back({cell.column, cell.row});
        }
        return rows.empty() || *rows.begin() != 0 || *rows.rbegin() != int(rows.size()) - 1 ? std::vector<CardPlace>() : out;
    }

    /// The first row that is free all along a strand and below the strands before it that it would run over.
    std::vector<CardPlace> placed(const std::vector<std::vector<std::size_t>>& strands) const {
        std::vector<CardPlace> out(net_.nodes.size());
        std::map<int, std::vector<std::pair<int, int>>> taken;  // row → ranges of columns
        int row = -1;
        for (const auto& strand : strands) {
            const int first = column_[strand.front()], last = column_[strand.back()];
            const auto free = [&](int r) {
                const auto& ranges = taken[r];
                return std::none_of(ranges.begin(), ranges.end(), [&](const auto& range) { return range.first <= last && range.second >= first; });
            };
            // The row of the strand before it, or a new one: the order stays the order from top to bottom.
            if (row < 0 || !free(row)) ++row;
            while (!free(row)) ++row;
            taken[row].push_back({first, last});
            for (std::size_t node : strand) out[node] = {column_[node], row};
        }
        return out;
    }

    bool improve(std::size_t reach) {
        bool better = false;
        for (std::size_t i = 0; i < strands_.size(); ++i) {
            const std::size_t from = i > reach ? i - reach : 0, to = std::min(strands_.size() - 1, i + reach);
            std::vector<std::vector<std::size_t>> bestOrder;
            for (std::size_t j = from; j <= to; ++j) {
                if (j == i) continue;
                auto order = strands_;
                auto moved = std::move(order[i]);
                order.erase(order.begin() + std::ptrdiff_t(i));
                order.insert(order.begin() + std::ptrdiff_t(j), std::move(moved));
                auto place = placed(order);
                const double cost = weightOf(costOf(place, net_.links));
                if (cost >= best_) continue;
                best_ = cost;
                place_ = std::move(place);
                bestOrder = std::move(order);
            }
            if (!bestOrder.empty()) strands_ = std::move(bestOrder), better = true;
        }
        return better;
    }

    Net net_;
    std::vector<int> column_;
    std::vector<std::vector<std::size_t>> strands_;
    std::vector<CardPlace> place_;
    double best_ = 0;
};

}  // namespace

namespace {

constexpr int kLongThread = 7;  ///< columns, more than are in sight at a usual zoom

}  // namespace

TidyCost tidyCost(const Loom& loom) {
    const Net net = netOf(loom);
    std::vector<CardPlace> place;
    for (const Node* node : net.nodes) place.push_back({node->cell.column, node->cell.row});
    return costOf(place, net.links);
}

Edit tidy(const Loom& loom) {
    Draft draft(loom, "Tidy the weave");
    const std::vector<CardPlace> place = Layout(loom).run();
    for (std::size_t i = 0; i < loom.notes.size(); ++i) {
        // The node that the note belonged to: the nearest one when the note was put there.
        Note note = loom.notes[i];
        std::size_t nearest = loom.nodes.size();
        int least = 1 << 28;
        for (std::size_t n = 0; n < loom.nodes.size(); ++n) {
            const Cell cell = loom.nodes[n].cell;
            const int far = std::abs(cell.column - note.cell.column) + 2 * std::abs(cell.row - note.cell.row);
            if (far < least) least = far, nearest = n;
        }
        if (nearest == loom.nodes.size()) continue;
        note.cell.column = std::max(0, note.cell.column + place[nearest].column - loom.nodes[nearest].cell.column);
        note.cell.row = std::max(0, note.cell.row + place[nearest].row - loom.nodes[nearest].cell.row);
        draft.replace(&Loom::notes, i, std::move(note));
    }
    for (std::size_t i = 0; i < loom.nodes.size(); ++i) {
        Node node = loom.nodes[i];
        node.cell = {place[i].column, place[i].row};
        draft.replace(&Loom::nodes, i, std::move(node));
    }
    // What runs behind half the weave to another row can't be followed by eye.
    for (std::size_t i = 0; i < loom.links.size(); ++i) {
        const Node *from = draft.loom().node(loom.links[i].from), *to = draft.loom().node(loom.links[i].to);
        if (!from || !to || to->cell.column - from->cell.column < kLongThread || to->cell.row == from->cell.row) continue;
        Link link = loom.links[i];
        link.cut = true;
        draft.replace(&Loom::links, i, std::move(link));
    }
    return draft.finish();
}

}  // namespace seedloom
