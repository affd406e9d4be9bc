#include "app/session/PictureFiles.h"

#include <QtGui/QImage>

namespace seedloom::app {

PictureFiles::PictureFiles(QObject* parent) : QObject(parent), known_(kMostBytes) {}

QPixmap PictureFiles::of(const QString& file) {
    if (file.isEmpty()) return {};
    if (const QPixmap* known = known_.object(file)) return *known;
    if (wished_.contains(file)) return {};
    wished_.insert(file);
    background_.start([this, file]() -> Background::Then {
        const QImage image(file);
        return [this, file, image] {
            wished_.remove(file);
            // One that can't be read is not asked for again and again.
            known_.insert(file, new QPixmap(QPixmap::fromImage(image)), std::max(int(image.sizeInBytes()), 1));
            Q_EMIT ready(file);
        };
    });
    return {};
}

void PictureFiles::forgetWishes() {
    background_.clear();
    wished_.clear();
}

}  // namespace seedloom::app
