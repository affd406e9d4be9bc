#include "app/session/PresetPictures.h"

#include "app/session/RebuildService.h"
#include "graph/Controls.h"
#include "publish/FitCheck.h"
#include "render/Thumbnail.h"

namespace seedloom::app {

namespace {

/// What a picture of a preset depends on, but for the preset.
std::shared_ptr<const Loom> withoutPresets(const std::shared_ptr<const Loom>& loom) {
    auto out = std::make_shared<Loom>(*loom);
    out->presets.clear();
    out->values.clear();
    return out;
}

QImage thumbnailAt(const FitSubject& subject, const std::string& preset, Engine& engine, const std::atomic<bool>& stop) {
    auto values = controlValues(*subject.loom, {preset, {}});
    if (!values) return {};
    RebuildRequest request = subject.request(std::move(*values));
    request.targets = {subject.loom->output};
    request.cancel = &stop;
    const RebuildResult result = engine.build(request);
    const Geometry* built = result.cancelled ? nullptr : result.geometry(subject.loom->output);
    if (!built || built->empty()) return {};
    ThumbnailOptions options;
    options.width = PresetPictures::kWide, options.height = PresetPictures::kHigh;
    const Picture picture = thumbnail(*built, options, RunContext(&stop));
    return QImage(reinterpret_cast<const uchar*>(picture.pixels.data()), picture.width, picture.height, QImage::Format_RGBA8888).copy();
}

}  // namespace

PresetPictures::PresetPictures(Document& document, QObject* parent) : QObject(parent), document_(document), engine_(commonEngine()) {}

PresetPictures::~PresetPictures() {
    *stop_ = true;
    background_.wait();
}

void PresetPictures::want() {
    auto now = withoutPresets(document_.snapshot());
    if (!seen_ || !givesSameModels(*seen_, *now)) {
        *stop_ = true;
        stop_ = std::make_shared<std::atomic<bool>>(false);
        background_.clear();
        drawn_.clear();
        seen_ = std::move(now);
    }
    for (const Preset& preset : document_.loom().presets) draw(preset);
}

void PresetPictures::draw(const Preset& preset) {
    const auto it = drawn_.find(preset.name);
    if (it != drawn_.end() && it->second.values == preset.values) return;
    drawn_[preset.name] = {preset.values, {}};
    FitSubject subject;
    auto loom = std::make_shared<Loom>(*seen_);
    loom->presets = {preset};
    subject.loom = std::move(loom);
    subject.assets = document_.assets();
    subject.folder = document_.file().parent_path().string();
    background_.start([this, subject, name = preset.name, engine = engine_, stop = stop_]() -> Background::Then {
        QImage image;
        try {
            if (!*stop) image = thumbnailAt(subject, name, *engine, *stop);
        } catch (const Cancelled&) {}
        return [this, name, image, stop] {
            if (*stop) return;
            drawn_[name].picture = QPixmap::fromImage(image);
            Q_EMIT ready();
        };
    });
}

QPixmap PresetPictures::picture(const std::string& preset) const {
    const auto it = drawn_.find(preset);
    return it == drawn_.end() ? QPixmap() : it->second.picture;
}

}  // namespace seedloom::app
