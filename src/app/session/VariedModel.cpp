#include "app/session/VariedModel.h"

#include "app/session/RebuildService.h"
#include "publish/Trials.h"

namespace seedloom::app {

VariedModel::VariedModel(QObject* parent) : QObject(parent), engine_(commonEngine()) {}

VariedModel::~VariedModel() {
    *stop_ = true;
    background_.clear();
    background_.wait();
}

void VariedModel::forget() {
    *stop_ = true;
    background_.clear();
    building_ = false;
    outcome_ = nullptr;
}

void VariedModel::want(const FitSubject& subject, const Variation& variation) {
    *stop_ = true;
    background_.clear();
    stop_ = std::make_shared<std::atomic<bool>>(false);
    building_ = true;
    background_.start([this, subject, variation, engine = engine_, stop = stop_]() -> Background::Then {
        std::shared_ptr<const NodeOutcome> outcome;
        FitSubject plain = subject;
        plain.loom = asPublished(subject.loom);
        if (auto values = controlValues(*plain.loom, {variation.preset, variation.given})) {
            RebuildRequest request = plain.request(std::move(*values));
            request.targets = {plain.loom->output};
            request.cancel = stop.get();
            const RebuildResult result = engine->build(request);
            if (const auto it = result.nodes.find(plain.loom->output); it != result.nodes.end() && !result.cancelled) outcome = it->second.outcome;
        }
        return [this, outcome, stop] {
            if (*stop) return;
            building_ = false;
            outcome_ = outcome;
            Q_EMIT built();
        };
    });
}

}  // namespace seedloom::app
