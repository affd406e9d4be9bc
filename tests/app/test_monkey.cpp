// Random mouse and keys in the real window, as a child at the desk would: nothing may end the program, stay standing, or get out of step.
// SEEDLOOM_MONKEY_SEED and SEEDLOOM_MONKEY_SECONDS take another walk, or a longer one.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/PublishWindow.h"
#include "app/shell/UpdateWindow.h"
#include "app/stage/Stage.h"
#include "formats/LoomFile.h"

#include <QtGui/QDrag>
#include <QtWidgets/QDialog>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>

#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// What would end the walk or begin another document.
const std::set<QString> kNotForMonkeys{"new", "start", "new_window", "open", "recent", "demo", "close", "quit", "save", "save_as", "export"};

class Monkey {
public:
    Monkey(MainWindow& window, unsigned seed) : window_(window), random_(seed) {}

    void act() {
        QPointer<QWidget> ground = QApplication::activePopupWidget();
        if (!ground) ground = QApplication::activeModalWidget();
        const bool own = !ground;
        if (own) ground = &window_;
        const QPoint at = own && chance(45) ? nearACard() : anywhere(*ground);
        const int what = upTo(100);
        if (what < 30) return click(*ground, at);
        if (what < 38) return twice(*ground, at);
        if (what < 60) return dragAcross(*ground, at);
        if (what < 70) return wheel(*ground, at);
        if (what < 93) return key();
        if (own) command();
    }

private:
    int upTo(int n) { return int(random_() % unsigned(std::max(n, 1))); }
    bool chance(int percent) { return upTo(100) < percent; }
    template <class T> const T& one(const std::vector<T>& of) { return of[std::size_t(upTo(int(of.size())))]; }
    QPoint anywhere(const QWidget& in) { return {upTo(in.width()), upTo(in.height())}; }
    QPoint nearACard() {
        const auto& nodes = window_.document().shown().nodes;
        if (nodes.empty()) return anywhere(window_);
        const QPointF at = window_.weave()->cardRect(one(nodes).id).center() + QPointF(upTo(160) - 80, upTo(60) - 30);
        const QPoint inWindow = window_.weave()->mapTo(&window_, at.toPoint());
        return window_.rect().contains(inWindow) ? inWindow : anywhere(window_);
    }
    Qt::KeyboardModifiers modifiers() {
        return one(std::vector<Qt::KeyboardModifiers>{{}, {}, {}, {}, Qt::ControlModifier, Qt::ShiftModifier, Qt::ControlModifier | Qt::ShiftModifier});
    }
    /// The widget there that would get the event, and the place in it.
    static std::pair<QWidget*, QPoint> hit(QWidget& ground, QPoint at) {
        QWidget* child = ground.childAt(at);
        return child ? std::pair{child, child->mapFrom(&ground, at)} : std::pair{&ground, at};
    }
    void click(QWidget& ground, QPoint at) {
        const auto [on, place] = hit(ground, at);
        QTest::mouseClick(on, chance(12) ? Qt::RightButton : Qt::LeftButton, modifiers(), place);
    }
    static void twice(QWidget& ground, QPoint at) {
        const auto [on, place] = hit(ground, at);
        QTest::mouseDClick(on, Qt::LeftButton, {}, place);
    }
    void dragAcross(QWidget& ground, QPoint from) {
        const auto [on, place] = hit(ground, from);
        const QPointer<QWidget> still = on;
        const QPoint by(upTo(500) - 250, upTo(300) - 150);
        const Qt::MouseButton button = one(std::vector<Qt::MouseButton>{Qt::LeftButton, Qt::LeftButton, Qt::LeftButton, Qt::MiddleButton, Qt::RightButton});
        QTest::mousePress(on, button, modifiers(), place);
        for (int i = 1; i <= 5 && still; ++i) {
            const QPoint to = place + by * i / 5;
            QMouseEvent move(QEvent::MouseMove, to, still->mapToGlobal(to), Qt::NoButton, button, {});
            QApplication::sendEvent(still, &move);
        }
        // Sometimes a key comes in between.
        if (chance(10)) key();
        if (still) QTest::mouseRelease(still, button, {}, place + by);
    }
    void wheel(QWidget& ground, QPoint at) {
        const auto [on, place] = hit(ground, at);
        QWheelEvent turn(place, on->mapToGlobal(place), {}, {0, chance(50) ? 120 : -120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(on, &turn);
    }
    void key() {
        static const std::vector<Qt::Key> keys{Qt::Key_Return, Qt::Key_Escape, Qt::Key_Tab, Qt::Key_Delete, Qt::Key_Backspace, Qt::Key_Left, Qt::Key_Right,
                                               Qt::Key_Up,     Qt::Key_Down,   Qt::Key_F2,  Qt::Key_Space,  Qt::Key_Slash,     Qt::Key_Home, Qt::Key_A,
                                               Qt::Key_B,      Qt::Key_D,      Qt::Key_K,   Qt::Key_P,      Qt::Key_S,         Qt::Key_T,    Qt::Key_V,
                                               Qt::Key_Z,      Qt::Key_0,      Qt::Key_1,   Qt::Key_5,      Qt::Key_Minus,     Qt::Key_F1,   Qt::Key_Comma};
        QWidget* on = QApplication::activePopupWidget();
        if (!on) on = QApplication::focusWidget();
        if (!on) on = &window_;
        QTest::keyClick(on, one(keys), modifiers());
    }
    void command() {
        const QList<QAction*> all = window_.allActions();
        QAction* action = all[upTo(int(all.size()))];
        if (action->isEnabled()) action->trigger();
    }

    MainWindow& window_;
    std::mt19937 random_;
};

}  // namespace

class TestMonkey : public WindowTest {
    Q_OBJECT

private:
    QTimer closer_;
    QPointer<QWidget> stood_;

    /// A dialog or menu may stay for two looks; then it is left, as nobody else would.
    void leaveWhatWaits() {
        QDrag::cancel();  // names and texts that are dragged wait for a hand
        QWidget* waits = QApplication::activePopupWidget();
        if (!waits) waits = QApplication::activeModalWidget();
        if (waits && waits == stood_) {
            if (auto* dialog = qobject_cast<QDialog*>(waits)) dialog->reject();
            else waits->close();
        }
        stood_ = waits;
    }
    /// A text or a name is on its way; nobody has a second hand for anything else.
    static bool dragging() {
        const auto windows = QApplication::topLevelWidgets();
        return std::any_of(windows.begin(), windows.end(), [](const QWidget* top) { return top->findChild<QDrag*>() != nullptr; });
    }
    void leaveAll() {
        for (int i = 0; i < 20 && (QApplication::activePopupWidget() || QApplication::activeModalWidget()); ++i) {
            leaveWhatWaits();
            QTest::qWait(20);
        }
        if (window_->help()) window_->help()->close();
        for (auto* publish : window_->findChildren<PublishWindow*>()) publish->close();
        for (auto* update : window_->findChildren<UpdateWindow*>()) update->close();
        window_->activateWindow();
        window_->showWorkplace(QStringLiteral("build"));
        for (int i = 0; i < 4; ++i) {
            QWidget* on = QApplication::focusWidget() ? QApplication::focusWidget() : window_.get();
            QTest::keyClick(on, Qt::Key_Escape);
            QTest::qWait(10);
        }
        weave()->setFocus();
        QTest::qWait(50);
    }
    /// What stands in one document and not in the other, line by line.
    static QByteArray difference(const Loom& of, const Loom& from) {
        const auto lines = [](const Loom& loom) { return QString::fromStdString(loomToText(loom)).split(QLatin1Char('\n')); };
        const QStringList ours = lines(of), theirs = lines(from);
        for (qsizetype i = 0; i < std::min(ours.size(), theirs.size()); ++i)
            if (ours[i] != theirs[i]) return (QStringLiteral("line %1: ").arg(i) + ours[i].trimmed() + QStringLiteral(" | ") + theirs[i].trimmed()).toUtf8();
        return "the same text";
    }
    static QStringList shownChildren(const QWidget* of) {
        QStringList out;
        for (const QWidget* child : of->findChildren<QWidget*>(Qt::FindDirectChildrenOnly))
            if (child->isVisible()) out << QLatin1String(child->metaObject()->className()) + child->objectName();
        out.sort();
        return out;
    }
    static QSet<QWidget*> windows() {
        QSet<QWidget*> out;
        for (QWidget* top : QApplication::topLevelWidgets())
            if (top->isVisible() && !qobject_cast<MainWindow*>(top)) out << top;  // an asset is opened in a window of its own
        return out;
    }

    /// In a real event loop, and on in the menus and dialogs that it opens.
    void walk(Monkey& monkey, int seconds, int& acts) {
        constexpr int kDeepest = 2;
        QEventLoop loop;
        QTimer pace;
        QElapsedTimer time;
        int deep = 0;
        connect(&pace, &QTimer::timeout, this, [&] {
            if (deep == 0 && time.elapsed() > seconds * 1000) return loop.quit();
            if (deep == kDeepest || dragging() || time.elapsed() > seconds * 1000) return;
            ++deep, ++acts;
            monkey.act();
            --deep;
        });
        time.start();
        pace.start(2);
        loop.exec();
    }

private Q_SLOTS:
    void nothingStaysOrGetsOutOfStep_data() {
        QTest::addColumn<QString>("loom");
        QTest::addColumn<bool>("varied");
        QTest::newRow("bollard") << "mooring-bollard.loom" << false;
        QTest::newRow("turret, with containers") << "shingled-turret.loom" << false;
        QTest::newRow("bollard, varied") << "mooring-bollard.loom" << true;
    }
    void nothingStaysOrGetsOutOfStep() {
        QFETCH(QString, loom);
        QFETCH(bool, varied);
        const unsigned seed = qEnvironmentVariableIsSet("SEEDLOOM_MONKEY_SEED") ? qEnvironmentVariableIntValue("SEEDLOOM_MONKEY_SEED") : 1130;
        const int seconds = qEnvironmentVariableIsSet("SEEDLOOM_MONKEY_SECONDS") ? qEnvironmentVariableIntValue("SEEDLOOM_MONKEY_SECONDS") : 15;
        qInfo("seed %u", seed);
        const QString file = folder_.filePath(loom);
        // The turret is made of the shingle, which lies beside it.
        for (const QString& name : {loom, QStringLiteral("roof-shingle.loom")})
            QFile::copy(QStringLiteral(SEEDLOOM_SOURCE "/demo/") + name, folder_.filePath(name));
        window_ = std::make_unique<MainWindow>();
        window_->resize(1280, 800);
        QVERIFY(window_->openFile(file));
        showWindow();
        for (const QString& id : kNotForMonkeys) window_->action(id)->setEnabled(false);
        weave()->setFocus();
        if (varied) {
            window_->showWorkplace(QStringLiteral("vary"));
            window_->vary().sheet().setPlan(everythingByChance(document().loom()));
        }
        const Loom first = document().loom();
        const auto weaveHas = shownChildren(weave()), stageHas = shownChildren(stage());
        const auto open = windows();
        int replaced = 0;
        connect(&document(), &Document::replaced, this, [&] { ++replaced; });
        connect(&closer_, &QTimer::timeout, this, &TestMonkey::leaveWhatWaits);
        closer_.start(120);

        Monkey monkey(*window_, seed);
        int acts = 0;
        walk(monkey, seconds, acts);
        closer_.stop();
        closer_.disconnect();
        leaveAll();
        QVERIFY(acts > seconds);
        QCOMPARE(replaced, 0);
        window_->rebuilds().cancel();
        document().leave(document().place().path.size());
        waitFresh();

        // Nothing stands that belongs to nothing.
        QVERIFY(!weave()->nameField());
        QCOMPARE(shownChildren(weave()), weaveHas);
        QCOMPARE(windows(), open);
        // Every view is of the same document.
        if (!document().loom().nodes.empty()) {
            weave()->choose(document().loom().nodes.front().id);
            waitFresh();
            const Node& chosen = document().loom().nodes.front();
            const auto spec = document().specOf(chosen);
            const auto rows = window_->settings()->findChildren<SettingRow*>();
            QCOMPARE(rows.isEmpty(), !spec || spec->settings.empty());
            for (const SettingRow* row : rows) QVERIFY2(spec->setting(row->spec().id), row->spec().id.c_str());
            if (weave()->pinned().empty()) QCOMPARE(stage()->subject().outcome, window_->rebuilds().outcome(chosen.id));
        }
        // All of it can be taken back, and done again.
        const Loom last = document().loom();
        const auto taken = document().history().index();
        while (document().history().undoable()) document().undo();
        QVERIFY2(document().loom() == first, difference(document().loom(), first));
        while (document().history().index() < taken) document().redo();
        QVERIFY2(document().loom() == last, difference(document().loom(), last));
        while (document().history().undoable()) document().undo();
        waitFresh();
        for (const Notice& notice : window_->rebuilds().notices())
            QVERIFY2(notice.level != NoticeLevel::error, qPrintable(QString::fromStdString(notice.node + ": " + notice.text)));
        QList<QPointer<MainWindow>> others;  // help and dialogs go with them
        for (QWidget* top : QApplication::topLevelWidgets())
            if (auto* other = qobject_cast<MainWindow*>(top); other && other != window_.get()) others << other;
        for (const auto& other : others) delete other;
        window_.reset();
    }

private:
    Stage* stage() { return window_->stage(); }
};

int main(int argc, char** argv) { return runWindowTest<TestMonkey>(argc, argv); }
#include "test_monkey.moc"
