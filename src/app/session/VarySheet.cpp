#include "app/session/VarySheet.h"

#include "parallel/GiveWay.h"
#include "publish/Trials.h"
#include "vary/VariedInputs.h"
#include "vary/VaryQueue.h"

#include <QtCore/QStandardPaths>

#include <thread>
#include <unordered_map>

namespace seedloom::app {

namespace {

constexpr std::size_t kMemoBytes = std::size_t(96) << 20;  // beside that of the windows; what is varied last shares most
constexpr int kKeptUntilPruned = 1000;

constexpr double kPlannedAtOnce = 300;  // some milliseconds

}  // namespace

/// What is shared with those who make them: as long as the document gives the same models, so that steps which variations share stay known.
struct VarySheet::Making {
    Making(FitSubject from, const QString& cacheFolder) : subject(std::move(from)), cache(cacheFolder.toStdString()) {}

    const FitSubject subject;
    const VaryCache cache;
    std::atomic<bool> stop{false};
    std::atomic<int> kept{0};  ///< since the cache was last held within its size
    VaryQueue queue;
    std::once_flag prepared;
    std::optional<VaryBuilds> builds;  ///< made behind the interface: it reads the whole document

    std::mutex mutex;
    int plan = 0;
    std::shared_ptr<const PlannedVariations> planned;
    std::shared_ptr<const std::vector<PlannedVariation>> behind;
    double yaw = 30, pitch = 18;
};

VarySheet::VarySheet(Document& document, QObject* parent) : QObject(parent), document_(document) {
    take(planned_);
    connect(&bell_, &Doorbell::rung, this, &VarySheet::takeTold);
}

VarySheet::~VarySheet() {
    if (making_) making_->stop = true;
    for (Background* one : {&plans_, &background_}) {
        one->clear();
        one->wait();
    }
}

QString VarySheet::cacheFolder() { return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/variations"); }

FitSubject VarySheet::subject() const {
    FitSubject out;
    out.loom = varied_;
    out.assets = assets_;
    out.folder = folder_;
    return out;
}

std::optional<std::size_t> VarySheet::find(const Variation& variation) const {
    const std::string text = textOf(variation);
    if (const auto it = planned_->places.find(text); it != planned_->places.end()) return it->second;
    const auto it = std::find_if(behind_->begin(), behind_->end(), [&](const PlannedVariation& one) { return one.text == text; });
    return it == behind_->end() ? std::nullopt : std::optional(count() + std::size_t(it - behind_->begin()));
}

std::vector<const VaryRow*> VarySheet::rows() const {
    std::vector<const VaryRow*> out;
    for (std::size_t i = 0; i < count(); ++i) out.push_back(row(i));
    return out;
}

bool VarySheet::starred(const Variation& variation) const { return std::find(stars_.begin(), stars_.end(), variation) != stars_.end(); }

void VarySheet::setStarred(const Variation& variation, bool starred) {
    const auto it = std::find(stars_.begin(), stars_.end(), variation);
    if ((it != stars_.end()) == starred) return;
    const auto place = find(variation);
    if (starred) stars_.push_back(variation);
    else stars_.erase(it);
    // What stands behind the plan's own ones is there for its star only.
    if (!place || *place > count()) take(planned_);
    if (place) Q_EMIT itemChanged(*place);
    Q_EMIT starsChanged();
}

void VarySheet::setStars(std::vector<Variation> stars) {
    stars_ = std::move(stars);
    take(planned_);
    Q_EMIT starsChanged();
}

void VarySheet::setPlan(VaryPlan plan) {
    plan_ = std::move(plan);
    stopped_ = false;
    planNow();
}

void VarySheet::refresh() {
    const std::string folder = document_.file().parent_path().string();
    const auto now = document_.snapshot();
    const bool rested = std::exchange(resting_, false);
    if (!rested && now == seen_ && folder == folder_ && document_.assets() == assets_) return;
    const auto varied = std::make_shared<const Loom>(withInputsAsControls(*now));
    const bool same = folder == folder_ && document_.assets() == assets_ && givesSameModels(*varied_, *varied) && varied->presets == varied_->presets;
    seen_ = now, varied_ = varied, folder_ = folder, assets_ = document_.assets();
    if (!same) {
        if (making_) making_->stop = true;
        making_ = nullptr;
        for (Item& item : items_) item.row = nullptr, item.finished = item.working = false;
    }
    planNow();
}

void VarySheet::planNow() {
    const auto count = plannedCount(plan_, *varied_);
    ++planNumber_;
    plans_.clear();
    // Those that are too many are refused at once.
    if (!count || *count <= kPlannedAtOnce || *count > double(kMostVariations)) {
        planning_ = false;
        return take(std::make_shared<const PlannedVariations>(plan_, *varied_));
    }
    planning_ = true;
    plans_.start([this, plan = plan_, loom = varied_, number = planNumber_]() -> Background::Then {
        auto planned = std::make_shared<const PlannedVariations>(plan, *loom);
        return [this, planned = std::move(planned), number] {
            if (number != planNumber_) return;
            planning_ = false;
            take(planned);
        };
    });
    Q_EMIT progressed();
}

void VarySheet::take(std::shared_ptr<const PlannedVariations> next) {
    const auto before = std::exchange(planned_, std::move(next));
    const auto behindBefore = std::exchange(behind_, nullptr);
    const auto itemsBefore = std::exchange(items_, {});
    const auto known = [&](const std::string& text) -> Item {
        std::size_t at = 0;
        if (const auto it = before->places.find(text); it != before->places.end()) at = it->second;
        else
            for (at = before->all.size(); at < itemsBefore.size() && (*behindBefore)[at - before->all.size()].text != text;) ++at;
        Item out = at < itemsBefore.size() ? itemsBefore[at] : Item();
        out.working = false;
        return out;
    };
    std::vector<PlannedVariation> behind;
    const auto add = [&](Variation variation) {
        std::string text = textOf(variation);
        behind.push_back({std::move(variation), std::move(text)});
    };
    Variation now;
    for (const auto& [id, value] : varied_->values) now.given[id] = value;
    add(std::move(now));
    behind_ = std::make_shared<const std::vector<PlannedVariation>>(behind);
    for (const Variation& star : stars_)
        if (!find(star)) add(star);
    behind_ = std::make_shared<const std::vector<PlannedVariation>>(std::move(behind));
    items_.reserve(count() + behind_->size());
    for (const auto* list : {&planned_->all, behind_.get()})
        for (const PlannedVariation& one : *list) items_.push_back(known(one.text));
    left_ = std::size_t(std::count_if(items_.begin(), items_.end(), [](const Item& item) { return !item.finished; }));
    inView_.clear();
    // Thousands of values take a while to forget.
    if (before->all.size() > kPlannedAtOnce && before != planned_) plans_.start([before]() -> Background::Then { return {}; });
    Q_EMIT planned();
    begin();
}

void VarySheet::begin() {
    if (stopped_ || resting_ || left_ == 0) {
        if (making_) making_->queue.fill({});
        Q_EMIT progressed();
        return;
    }
    if (!making_ || making_->stop) making_ = std::make_shared<Making>(subject(), cacheFolder());
    std::vector<std::size_t> waiting;
    for (std::size_t i = 0; i < items_.size(); ++i)
        if (!items_[i].finished) waiting.push_back(i);
    {
        const std::lock_guard lock(making_->mutex);
        ++making_->plan;
        making_->planned = planned_, making_->behind = behind_;
        making_->yaw = yaw_, making_->pitch = pitch_;
        making_->queue.fill(waiting);
        making_->queue.look(inView_);
    }
    since_.start();
    madeSince_ = 0;
    run(making_);
    Q_EMIT progressed();
}

void VarySheet::run(const std::shared_ptr<Making>& making) {
    background_.start([this, making]() -> Background::Then {
        const std::size_t threads = std::max(1u, std::thread::hardware_concurrency());
        sideBySide(threads, int(threads), [&](std::size_t) {
            giveWay();
            for (;;) {
                std::optional<std::size_t> item;
                int plan = 0;
                {
                    // What is taken, and what it means, belong together.
                    const std::lock_guard lock(making->mutex);
                    if (!making->stop) item = making->queue.take();
                    plan = making->plan;
                }
                if (!item) return;
                try {
                    makeOne(*making, *item, plan);
                } catch (const std::bad_alloc&) {
                    // No memory even to say so: it stays as it is, and others are made that need less.
                }
            }
        });
        if (making->kept > kKeptUntilPruned) {
            making->kept = 0;
            making->cache.prune();
        }
        return {};
    });
}

void VarySheet::makeOne(Making& making, std::size_t item, int plan) {
    const auto tell = [&](std::shared_ptr<const VaryRow> row) {
        {
            const std::lock_guard lock(mutex_);
            told_.push_back({&making, plan, item, std::move(row)});
        }
        bell_.ring();
    };
    std::call_once(making.prepared, [&] { making.builds.emplace(making.subject, kMemoBytes, &making.stop); });
    VaryRow row;
    double yaw = 0, pitch = 0;
    {
        const std::lock_guard lock(making.mutex);
        if (plan != making.plan) return;
        const std::size_t count = making.planned->all.size();
        row.variation = (item < count ? making.planned->all[item] : (*making.behind)[item - count]).variation;
        yaw = making.yaw, pitch = making.pitch;
    }
    row.number = item + 1;
    const Digest key = making.builds->keyOf(row.variation);
    if (auto known = making.cache.find(key, yaw, pitch); known && (!known->picture.empty() || known->points == 0)) {
        known->number = row.number;
        return tell(std::make_shared<const VaryRow>(std::move(*known)));
    }
    tell(nullptr);
    Picture picture;
    if (!making.builds->build(row, [&](const Geometry& model) { picture = variationPicture(model, kPictureWide, kPictureHigh, yaw, pitch, &making.stop); }))
        return;
    // What failed may have failed for want of memory: it is tried again next time.
    if (!row.ok) return tell(std::make_shared<const VaryRow>(std::move(row)));
    // Without a place to keep it the row is told all the same; it has no picture then.
    if (auto error = making.cache.keep(row, key, picture, yaw, pitch)) row.problem = row.problem.empty() ? error->text : row.problem;
    ++making.kept;
    tell(std::make_shared<const VaryRow>(std::move(row)));
}

void VarySheet::takeTold() {
    std::vector<Told> told;
    {
        const std::lock_guard lock(mutex_);
        told.swap(told_);
    }
    bool any = false;
    for (Told& one : told) {
        if (one.making != making_.get() || one.plan != making_->plan || one.item >= items_.size()) continue;
        Item& item = items_[one.item];
        any = true;
        item.working = one.row == nullptr;
        if (one.row) {
            left_ -= std::size_t(!item.finished);
            ++madeSince_;
            item.finished = true;
            if (!one.row->picture.empty()) item.picture = QString::fromStdString(one.row->picture);
            item.row = std::move(one.row);
        }
        Q_EMIT itemChanged(one.item);
    }
    if (any) Q_EMIT progressed();
}

void VarySheet::lookAt(const std::vector<std::size_t>& seen) {
    inView_ = seen;
    if (making_) making_->queue.look(seen);
}

void VarySheet::setDirection(double yaw, double pitch) {
    if (yaw == yaw_ && pitch == pitch_) return;
    yaw_ = yaw, pitch_ = pitch;
    for (Item& item : items_) item.finished = item.row && !item.row->ok;
    left_ = std::size_t(std::count_if(items_.begin(), items_.end(), [](const Item& item) { return !item.finished; }));
    begin();
}

void VarySheet::stop() {
    if (!running()) return;
    stopped_ = true;
    if (making_) making_->stop = true;
    for (Item& item : items_) item.working = false;
    Q_EMIT progressed();
}

void VarySheet::rest() {
    resting_ = true;
    if (making_) making_->stop = true;
    for (Item& item : items_) item.working = false;
}

void VarySheet::goOn() {
    if (!std::exchange(stopped_, false)) return;
    begin();
}

std::size_t VarySheet::doneCount() const {
    return std::size_t(std::count_if(items_.begin(), items_.begin() + std::ptrdiff_t(count()), [](const Item& item) { return item.finished; }));
}

std::size_t VarySheet::failedCount() const {
    return std::size_t(std::count_if(items_.begin(), items_.begin() + std::ptrdiff_t(count()), [](const Item& item) { return item.row && !item.row->ok; }));
}

std::optional<double> VarySheet::remainingMs() const {
    if (!running() || madeSince_ == 0) return {};
    return double(since_.elapsed()) / double(madeSince_) * double(left_);
}

}  // namespace seedloom::app
