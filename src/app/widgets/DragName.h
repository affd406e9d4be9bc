#pragma once
// The name of a setting or control: a click resets, a drag carries it to the other column.
#include <QtWidgets/QLabel>

class QMimeData;

namespace seedloom::app {

/// What a drag of a name carries: a setting of a node, or a control.
inline constexpr const char* kSettingMime = "application/x-seedloom-setting";  ///< node id, line feed, setting id
inline constexpr const char* kControlMime = "application/x-seedloom-control";  ///< control id

/// Both parts of a dragged setting; empty ones where it is something else.
std::pair<std::string, std::string> draggedSetting(const QMimeData* data);
std::string draggedControl(const QMimeData* data);

class DragName : public QLabel {
    Q_OBJECT

public:
    DragName(const QString& text, const char* mime, QByteArray carried, QWidget* parent);

Q_SIGNALS:
    void clicked();
    void menuWanted(QPoint global);

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

private:
    const char* mime_;
    QByteArray carried_;
    QPoint pressed_;
    bool down_ = false;
};

}  // namespace seedloom::app
