#pragma once
// Small pictures from files, read behind the interface; the ones used last stay in memory, whatever the number of files.
#include "app/session/Background.h"

#include <QtCore/QCache>
#include <QtCore/QObject>
#include <QtCore/QSet>
#include <QtGui/QPixmap>

namespace seedloom::app {

class PictureFiles : public QObject {
    Q_OBJECT

public:
    explicit PictureFiles(QObject* parent = nullptr);
    /// The middle of the picture, as large as fills so many pixels; null while it is being read, or where it can't be. ready() follows.
    QPixmap of(const QString& file, QSize pixels);
    /// What is asked for from now on matters; what was asked for before and is not read yet does not.
    void forgetWishes();

Q_SIGNALS:
    void ready(const QString& file);

private:
    static constexpr int kMostBytes = 48 << 20;
    QCache<QString, QPixmap> known_;
    QSet<QString> wished_;
    Background background_;
};

}  // namespace seedloom::app
