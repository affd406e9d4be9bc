#pragma once
// One notice in words, with the changes that help as buttons.
#include "operators/Notice.h"

#include <QtWidgets/QWidget>

class QLabel;
class QPushButton;

namespace seedloom::app {

class NoticeStrip : public QWidget {
    Q_OBJECT

public:
    /// `framed`: on a ground of its own, with a bar at its left.
    explicit NoticeStrip(bool framed, QWidget* parent);
    /// Hides where there is no text.
    void setNotice(const QString& text, NoticeLevel level, const std::vector<NoticeFix>& fixes);
    QString text() const;
    const std::vector<QPushButton*>& buttons() const { return buttons_; }

Q_SIGNALS:
    void fixWanted(const NoticeFix& fix);

private:
    bool framed_;
    QLabel* words_;
    QWidget* row_;
    NoticeLevel level_ = NoticeLevel::info;
    std::vector<NoticeFix> fixes_;
    std::vector<QPushButton*> buttons_;
};

}  // namespace seedloom::app
