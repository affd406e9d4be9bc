#include "app/session/PictureFiles.h"

#include <QtGui/QImage>

namespace seedloom::app {

PictureFiles::PictureFiles(QObject* parent) : QObject(parent), known_(kMostBytes) {}

QPixmap PictureFiles::of(const QString& file, QSize pixels) {
    if (file.isEmpty() || pixels.isEmpty()) return {};
    const QString key = QStringLiteral("%1 %2 %3").arg(pixels.width()).arg(pixels.height()).arg(file);
    if (const QPixmap* known = known_.object(key)) return *known;
    if (wished_.contains(key)) return {};
    wished_.insert(key);
    background_.start([this, file, key, pixels]() -> Background::Then {
        QImage image(file);
        if (!image.isNull()) {
            image = image.convertToFormat(QImage::Format_ARGB32_Premultiplied).scaled(pixels, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation);
            image = image.copy(QRect((image.width() - pixels.width()) / 2, (image.height() - pixels.height()) / 2, pixels.width(), pixels.height()));
        }
        return [this, file, key, image] {
            wished_.remove(key);
            // One that can't be read is not asked for again and again.
            known_.insert(key, new QPixmap(QPixmap::fromImage(image)), std::max(int(image.sizeInBytes()), 1));
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
