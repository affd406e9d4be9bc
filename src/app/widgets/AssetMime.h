#pragma once
// What a drag of an asset carries.
#include <QtCore/QMimeData>
#include <QtCore/QUrl>

namespace seedloom::app {

inline constexpr const char* kAssetMime = "application/x-seedloom-asset";  ///< path of a loom or pack

/// The file of a dragged asset: from the library, or one pack from elsewhere. Empty where it is something else.
inline QString draggedAsset(const QMimeData* data) {
    if (data->hasFormat(QLatin1String(kAssetMime))) return QString::fromUtf8(data->data(QLatin1String(kAssetMime)));
    const QList<QUrl> urls = data->urls();
    if (urls.size() != 1 || !urls.front().isLocalFile()) return {};
    const QString file = urls.front().toLocalFile();
    return file.endsWith(QLatin1String(".loompack")) ? file : QString();
}

}  // namespace seedloom::app
