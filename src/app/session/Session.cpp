#include "app/session/Session.h"

#include "app/session/Log.h"

#include "graph/Controls.h"

namespace seedloom::app {

namespace {

constexpr int kRestMs = 250;  // a hand that has not moved for so long rests

}  // namespace

Session::Session(QObject* parent) : QObject(parent) {
    rest_.setSingleShot(true);
    rest_.setInterval(kRestMs);
    connect(&rest_, &QTimer::timeout, this, [this] { rebuild(); });
    connect(&document_, &Document::changed, this, &Session::follow);
    connect(&document_, &Document::placeChanged, this, [this] { rebuild(); });
    connect(&document_, &Document::gestureEnded, this, [this] {
        if (rest_.isActive() || rebuilds_.incomplete()) rebuild();
    });
    connect(&document_, &Document::conflict, this, [this](const QString& reason) {
        Log::common().say(QStringLiteral("conflict: an edit did not fit the document"));
        Q_EMIT problem(reason);
    });
    connect(&document_, &Document::replaced, this, [this] {
        pictures_.forgetNodes();
        rebuilds_.forgetNodes();
        const Loom& loom = document_.loom();
        Log::common().say(QStringLiteral("document: %1 nodes, %2 links, %3 controls").arg(loom.nodes.size()).arg(loom.links.size()).arg(loom.controls.size()));
    });
    connect(&rebuilds_, &RebuildService::finished, this, &Session::logNotices);
    connect(&selection_, &Selection::frameChanged, this, [this](double, bool moving) {
        rebuild(moving ? Mode::sliding : Mode::full);
        if (moving) rest_.start();
    });
}

Session::~Session() {
    document_.disconnect();
    rebuilds_.disconnect();
    pictures_.disconnect();
}

/// Errors of steps by code and operator, once each while they stay.
void Session::logNotices() {
    std::set<QString> errors;
    for (const Notice& notice : rebuilds_.notices()) {
        const Node* node = document_.loom().node(notice.node);
        if (notice.level != NoticeLevel::error || notice.code == "input.missing") continue;
        errors.insert(QStringLiteral("%1 in %2").arg(QString::fromStdString(notice.code), node ? QString::fromStdString(node->op) : QStringLiteral("?")));
    }
    for (const QString& error : errors)
        if (!logged_.count(error)) Log::common().say(QStringLiteral("error: ") + error);
    logged_ = std::move(errors);
}

/// A hand on a slider is followed; what is slow waits until it rests.
void Session::follow() {
    const bool moving = document_.inGesture();
    rebuild(moving ? Mode::sliding : Mode::full);
    if (moving) rest_.start();
}

void Session::showUnfinished(Unfinished unfinished) {
    const bool moving = !unfinished.node.empty();
    rebuilds_.setUnfinished(std::move(unfinished));
    if (!moving) return;  // what is made of it follows
    rebuild(Mode::sliding);
    rest_.start();
}

void Session::rebuild(Mode mode) {
    rest_.stop();
    auto values = controlValues(document_.loom());
    if (!values) {
        Q_EMIT problem(QString::fromStdString(values.error().text));
        values = ControlValues();
    }
    rebuilds_.setPlace(document_.place());
    rebuilds_.setFolder(document_.file().parent_path().string());
    rebuilds_.request(document_.snapshot(), document_.assets(), std::move(*values), selection_.frame(), kFramesPerSecond, mode);
}

}  // namespace seedloom::app
