#include "graph/Memo.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

constexpr double kLeastWorth = 1e-13;  // of row 0, in milliseconds a byte

double worthOf(int row) { return std::ldexp(kLeastWorth, row); }

}  // namespace

void Memo::touch(Row::iterator entry) {
    entry->worth = floor_ + worthOf(entry->row);
    Row& row = rows_[std::size_t(entry->row)];
    row.splice(row.end(), row, entry);
}

std::shared_ptr<const NodeOutcome> Memo::find(const StepKey& key) {
    const std::lock_guard lock(mutex_);
    const auto* place = entries_.find(key.digest);
    if (!place) return nullptr;
    touch(*place);
    return (*place)->outcome;
}

void Memo::store(const StepKey& key, std::shared_ptr<const NodeOutcome> outcome) {
    HeldParts held = partsOf(*outcome);
    const std::size_t whole = held.whole();
    const double worth = (outcome->ms + 0.001) / double(whole);
    const int row = std::clamp(int(std::floor(std::log2(worth / kLeastWorth))), 0, kRows - 1);

    Row dead, one;  // large results are freed when others may look up again
    one.push_back({key.digest, std::move(outcome), 0, row, std::move(held)});
    const std::lock_guard lock(mutex_);
    if (whole > budget_ || !entries_.add(one)) return;
    Row& to = rows_[std::size_t(row)];
    to.splice(to.end(), one);
    touch(std::prev(to.end()));
    evict(dead);
}

void Memo::evict(Row& dead) {
    while (entries_.bytes() > budget_) {
        Row* least = nullptr;
        for (Row& row : rows_)
            if (!row.empty() && (!least || row.front().worth < least->front().worth)) least = &row;
        if (!least) return;
        floor_ = least->front().worth;
        entries_.remove(least->begin(), *least, dead);
    }
}

void Memo::setBudget(std::size_t bytes) {
    Row dead;
    const std::lock_guard lock(mutex_);
    budget_ = bytes;
    evict(dead);
}

std::size_t Memo::bytes() const {
    const std::lock_guard lock(mutex_);
    return entries_.bytes();
}

std::size_t Memo::entries() const {
    const std::lock_guard lock(mutex_);
    return entries_.count();
}

}  // namespace seedloom
