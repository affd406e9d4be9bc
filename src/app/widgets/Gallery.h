#pragma once
// Cards with a picture, a name and a few words, in rows as wide as there is room.
#include <QtGui/QPixmap>
#include <QtWidgets/QAbstractButton>

namespace seedloom::app {

class GalleryCard : public QAbstractButton {
    Q_OBJECT

public:
    struct Content {
        QString name, words, remark;
        QPixmap picture;
    };
    GalleryCard(Content content, QWidget* parent);
    const Content& content() const { return content_; }
    QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent*) override;
    void keyPressEvent(QKeyEvent* event) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }

private:
    Content content_;
};

/// Lays its cards out, and is as high as they need.
class Gallery : public QWidget {
    Q_OBJECT

public:
    using QWidget::QWidget;
    GalleryCard* add(GalleryCard::Content content);
    void clear();
    const std::vector<GalleryCard*>& cards() const { return cards_; }

protected:
    void resizeEvent(QResizeEvent*) override { layOut(); }

private:
    void layOut();
    std::vector<GalleryCard*> cards_;
};

}  // namespace seedloom::app
