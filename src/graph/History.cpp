#include "graph/History.h"

namespace seedloom {

void History::push(Edit edit, int gesture) {
    if (clean_ && *clean_ > at_) clean_.reset();
    const bool newest = at_ == steps_.size();
    steps_.resize(at_);
    if (newest && gesture > 0 && at_ > 0 && steps_.back().gesture == gesture && clean_ != at_) {
        steps_.back().edit = joined(steps_.back().edit, edit);
        if (steps_.back().edit.empty()) steps_.pop_back(), --at_;
        return;
    }
    steps_.push_back({std::move(edit), gesture});
    if (++at_ <= most_) return;
    steps_.erase(steps_.begin());
    --at_;
    if (clean_) clean_ = *clean_ > 0 ? std::optional(*clean_ - 1) : std::nullopt;
}

void History::clear() {
    steps_.clear();
    at_ = 0;
    clean_ = 0;
}

void History::rewrite(const std::function<void(Edit&)>& change) {
    for (Step& step : steps_) change(step.edit);
}

}  // namespace seedloom
