#include "app/session/Pictures.h"

#include "app/look/Theme.h"
#include "graph/Memo.h"
#include "graph/OperatorSample.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostKept = 2000;
const std::string kOperator = "operator ";  // no node is called so: names have no spaces

QImage imageOf(const Picture& picture) {
    QImage out(picture.width, picture.height, QImage::Format_ARGB32);
    for (int y = 0; y < picture.height; ++y)
        for (int x = 0; x < picture.width; ++x) {
            const Colour c = picture.pixels[std::size_t(y) * std::size_t(picture.width) + std::size_t(x)];
            out.setPixel(x, y, qRgba(c.r, c.g, c.b, c.a));
        }
    return out;
}

}  // namespace

bool PictureQueue::put(PictureWish wish) {
    const std::lock_guard lock(mutex_);
    if (drawn_ == wish.key) return false;
    const auto same = std::find_if(waiting_.begin(), waiting_.end(), [&](const PictureWish& w) { return w.key.first == wish.key.first; });
    if (same != waiting_.end()) {
        if (same->key == wish.key) {
            std::rotate(same, same + 1, waiting_.end());  // looked at now: before those that were scrolled away
            return false;
        }
        waiting_.erase(same);
    }
    waiting_.push_back(std::move(wish));
    if (waiting_.size() > kMostWaiting) waiting_.pop_front();
    return true;
}

std::optional<PictureWish> PictureQueue::take() {
    const std::lock_guard lock(mutex_);
    if (waiting_.empty()) return {};
    PictureWish newest = std::move(waiting_.back());
    waiting_.pop_back();
    drawn_ = newest.key;
    return newest;
}

void PictureQueue::done(const PictureKey& key) {
    const std::lock_guard lock(mutex_);
    if (drawn_ == key) drawn_.reset();
}

Pictures::Pictures(QObject* parent) : QObject(parent) {}

Pictures::~Pictures() { stop_ = true; }

void Pictures::setDirection(double yaw, double pitch) {
    if (yaw == yaw_ && pitch == pitch_) return;
    yaw_ = yaw;
    pitch_ = pitch;
    done_.clear();
    Q_EMIT ready();
}

void Pictures::forgetNodes() {
    ++document_;
    std::erase_if(last_, [](const auto& entry) { return entry.first.rfind(kOperator, 0) != 0; });
}

void Pictures::refresh() {
    done_.clear();
    Q_EMIT ready();
}

void Pictures::draw(const Key& key, std::function<Geometry()> make) {
    ThumbnailOptions options;
    options.width = options.height = kSize;
    options.yaw = yaw_;
    options.pitch = pitch_;
    const QColor ink = colours().ink;
    options.line = {std::uint8_t(ink.red()), std::uint8_t(ink.green()), std::uint8_t(ink.blue()), 255};
    if (!queue_.put({key, std::move(make), options, document_})) return;
    background_.start([this]() -> Background::Then {
        // Pictures wait for everything else: a rebuild or a turn of the stage is never slower for them.
        static thread_local const bool yielding = setpriority(PRIO_PROCESS, id_t(gettid()), 15) == 0;
        (void)yielding;
        const auto wish = queue_.take();
        if (!wish) return {};  // another picture of the same node was wished for since
        try {
            const QImage image = imageOf(thumbnail(wish->make(), wish->options, RunContext(&stop_)));
            return [this, document = wish->document, key = wish->key, image, options = wish->options] {
                queue_.done(key);
                const QPixmap pixmap = QPixmap::fromImage(image);
                if (document == document_ || key.first.rfind(kOperator, 0) == 0) last_[key.first] = pixmap;
                if (options.yaw == yaw_ && options.pitch == pitch_) {
                    if (done_.size() > kMostKept) done_.clear();
                    if (last_.size() > kMostKept) last_.clear();
                    done_[key] = pixmap;
                }
                Q_EMIT ready();
            };
        } catch (const Cancelled&) {
            return {};  // The application is closing.
        } catch (const std::exception&) {
            return [this, key = wish->key] { queue_.done(key); };  // no memory now; it is asked for again with the next painting
        }
    });
}

QPixmap Pictures::ofNode(const std::string& node, const Digest& key, const std::shared_ptr<const NodeOutcome>& outcome) {
    const Key wanted{node, key};
    if (const auto it = done_.find(wanted); it != done_.end()) return it->second;
    if (outcome) draw(wanted, [outcome] { return outcome->geometry; });
    const auto it = last_.find(node);
    return it == last_.end() ? QPixmap() : it->second;
}

QPixmap Pictures::ofOperator(const std::string& op) {
    const Key wanted{kOperator + op, {}};
    if (const auto it = done_.find(wanted); it != done_.end()) return it->second;
    draw(wanted, [op] { return operatorSample(op); });
    const auto it = last_.find(wanted.first);
    return it == last_.end() ? QPixmap() : it->second;
}

}  // namespace seedloom::app
