#include "app/shell/Pictures.h"

#include "app/shell/Theme.h"
#include "graph/Rebuild.h"
#include "operators/Catalogue.h"

#include <sys/resource.h>
#include <unistd.h>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostKept = 2000;

QImage imageOf(const Picture& picture) {
    QImage out(picture.width, picture.height, QImage::Format_ARGB32);
    for (int y = 0; y < picture.height; ++y)
        for (int x = 0; x < picture.width; ++x) {
            const Colour c = picture.pixels[std::size_t(y) * std::size_t(picture.width) + std::size_t(x)];
            out.setPixel(x, y, qRgba(c.r, c.g, c.b, c.a));
        }
    return out;
}

/// Something for an operator to work on: a curve for curve operators, else a block.
Geometry operatorSample(const std::string& op) {
    Loom loom;
    const auto add = [&](const char* id, const char* kind, Json settings) {
        Node node;
        node.id = id;
        node.op = kind;
        node.settings = std::move(settings);
        loom.nodes.push_back(std::move(node));
    };
    const OperatorSpec* spec = findOperator(op);
    const bool curve = spec && spec->family == Family::curve;
    if (curve)
        add("sample", "point_list", {{"points", {{0.3, 0, 0}, {0.12, 0.5, 0}, {0.26, 0.8, 0}, {0.2, 0.9, 0}}}});
    else
        add("sample", "box", {{"cells", {3, 3, 3}}});
    Json settings = Json::object();
    if (op == "noise_displace") settings = {{"amount", 0.25}, {"size", 0.6}};
    if (op == "transform") settings = {{"rotate", {0, 25, 20}}, {"scale", {1, 1.4, 0.7}}};
    if (op == "subdivide") settings = {{"levels", 2}};
    if (op == "resample") settings = {{"count", 10}, {"form", "smooth"}};
    add("shown", op.c_str(), std::move(settings));
    if (spec && !spec->inputs.empty()) loom.links.push_back({"sample", "", "shown", "", Json::object()});
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(std::move(loom));
    request.targets = {"shown"};
    Memo memo(1 << 20);
    const RebuildResult result = rebuild(request, memo);
    const Geometry* shown = result.geometry("shown");
    return shown ? *shown : Geometry();
}

}  // namespace

Pictures::Pictures(QObject* parent) : QObject(parent) {}

Pictures::~Pictures() { stop_ = true; }

void Pictures::setDirection(double yaw, double pitch) {
    if (yaw == yaw_ && pitch == pitch_) return;
    yaw_ = yaw;
    pitch_ = pitch;
    done_.clear();
    Q_EMIT ready();
}

void Pictures::refresh() {
    done_.clear();
    Q_EMIT ready();
}

void Pictures::draw(const Key& key, std::function<Geometry()> make) {
    if (!waiting_.insert(key).second) return;
    ThumbnailOptions options;
    options.width = options.height = kSize;
    options.yaw = yaw_;
    options.pitch = pitch_;
    const QColor ink = colours().ink;
    options.line = {std::uint8_t(ink.red()), std::uint8_t(ink.green()), std::uint8_t(ink.blue()), 255};
    background_.start([this, key, make = std::move(make), options]() -> Background::Then {
        // Pictures wait for everything else: a rebuild or a turn of the stage is never slower for them.
        static thread_local const bool yielding = setpriority(PRIO_PROCESS, id_t(gettid()), 15) == 0;
        (void)yielding;
        try {
            const QImage image = imageOf(thumbnail(make(), options, RunContext(&stop_)));
            return [this, key, image, options] {
                waiting_.erase(key);
                const QPixmap pixmap = QPixmap::fromImage(image);
                last_[key.first] = pixmap;
                if (options.yaw == yaw_ && options.pitch == pitch_) {
                    if (done_.size() > kMostKept) done_.clear();
                    if (last_.size() > kMostKept) last_.clear();
                    done_[key] = pixmap;
                }
                Q_EMIT ready();
            };
        } catch (const Cancelled&) {
            return {};  // The application is closing.
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
    const Key wanted{"operator " + op, {}};
    if (const auto it = done_.find(wanted); it != done_.end()) return it->second;
    draw(wanted, [op] { return operatorSample(op); });
    const auto it = last_.find(wanted.first);
    return it == last_.end() ? QPixmap() : it->second;
}

}  // namespace seedloom::app
