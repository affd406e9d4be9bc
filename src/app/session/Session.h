#pragma once
// What a window is about: the document, its rebuilds and pictures, what is chosen in it. Knows no widget; a change of theme builds the widgets anew and
// leaves this as it is.
#include "app/session/Document.h"
#include "app/session/Pictures.h"
#include "app/session/RebuildService.h"
#include "app/session/Selection.h"

#include <QtCore/QTimer>

#include <set>

namespace seedloom::app {

class Session : public QObject {
    Q_OBJECT

public:
    static constexpr double kFramesPerSecond = 24;
    using Mode = RebuildService::Mode;

    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    Document& document() { return document_; }
    const Document& document() const { return document_; }
    RebuildService& rebuilds() { return rebuilds_; }
    const RebuildService& rebuilds() const { return rebuilds_; }
    Pictures& pictures() { return pictures_; }
    Selection& selection() { return selection_; }
    const Selection& selection() const { return selection_; }

    /// Has the document rebuilt as it is now. It happens by itself with every change, and for what waited when a hand rests.
    void rebuild(Mode mode = Mode::full);
    /// A stroke that a hand still makes: models are built as if the document had it.
    void showUnfinished(Unfinished unfinished);
    /// The hand that was on the frames rests.
    void frameRests() { rebuild(); }
    /// Up to which frame it is told what is kept.
    void setLastFrame(int frame) { rebuilds_.setLastFrame(frame); }

Q_SIGNALS:
    /// Something that the user should read.
    void problem(const QString& text);

private:
    void follow();
    void logNotices();

    Document document_;
    RebuildService rebuilds_;
    Pictures pictures_;
    Selection selection_;
    QTimer rest_;
    std::set<QString> logged_;
};

}  // namespace seedloom::app
