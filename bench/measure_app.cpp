// How quick the window is: start, memory, edits of a large graph, turning a large model, giving up. Run by scripts/bench under its own display.
#include "app/shell/MainWindow.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/vary/VaryView.h"
#include "app/weave/Weave.h"
#include "graph/Controls.h"
#include "meshes/MeshFile.h"
#include "operators/Polyhedra.h"
#include "support/OwnApplication.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QFile>
#include <QtTest/QtTest>
#include <QtWidgets/QApplication>
#include <QtWidgets/QScrollBar>

#include <cstdio>

using namespace seedloom;
using namespace seedloom::app;

namespace {

double residentMb() {
    QFile file(QStringLiteral("/proc/self/statm"));
    if (!file.open(QIODevice::ReadOnly)) return 0;
    return file.readAll().split(' ').value(1).toDouble() * 4096 / 1e6;
}

void say(const char* what, double value, const char* unit, const char* aim) { std::printf("%-58s %9.1f %-3s  aim %s\n", what, value, unit, aim); }

bool waitFresh(MainWindow& window) {
    return QTest::qWaitFor([&] { return !window.rebuilds().running(); }, 60000);
}

/// Milliseconds until the rebuild after `change` is done and its results have been taken in.
template <class Change> double untilFresh(MainWindow& window, Change&& change) {
    QElapsedTimer clock;
    clock.start();
    change();
    // A loop that sleeps: one that asks again and again would take the rebuild's core.
    QEventLoop loop;
    QObject::connect(&window.rebuilds(), &RebuildService::finished, &loop, &QEventLoop::quit);
    if (window.rebuilds().running()) loop.exec();
    const double ms = double(clock.nsecsElapsed()) / 1e6;
    QTest::qWait(300);  // until everything is drawn, so that the next one starts from rest
    return ms;
}

template <class Run> double median(int runs, Run&& run) {
    std::vector<double> times;
    for (int i = 0; i < runs; ++i) times.push_back(run(i));
    std::sort(times.begin(), times.end());
    return times[times.size() / 2];
}

Loom thousandNodes() {
    Loom loom;
    for (int s = 0; s < 10; ++s)
        for (int i = 0; i < 100; ++i) {
            Node node;
            node.id = "s" + std::to_string(s) + "_" + std::to_string(i);
            node.op = i == 0 ? "box" : "transform";
            node.cell = {i, s};
            if (i > 0) node.settings = {{"move", {0.01, 0.0, 0.0}}};
            if (i > 0) loom.links.push_back({"s" + std::to_string(s) + "_" + std::to_string(i - 1), "", node.id, "", Json::object()});
            loom.nodes.push_back(std::move(node));
        }
    Node out;
    out.id = out.op = "output";
    out.cell = {100, 0};
    loom.nodes.push_back(out);
    loom.links.push_back({"s0_99", "", "output", "", Json::object()});
    loom.output = "output";
    return loom;
}

void measureLargeGraph(MainWindow& window) {
    window.document().adopt(thousandNodes());
    waitFresh(window);
    window.weave()->choose("output");
    const auto move = [&](int i) {
        return untilFresh(window, [&] { window.document().apply(setSetting(window.document().loom(), "s0_99", "move", {0.0, 0.001 * (i + 1), 0.0})); });
    };
    say("1 000 nodes: change at the end, until fresh", median(21, move), "ms", "20");
    say("1 000 nodes: undo", median(15, [&](int) { return untilFresh(window, [&] { window.document().undo(); }); }), "ms", "30");
    QPixmap picture(window.weave()->size());
    say("1 000 nodes: painting the weave",
        median(9,
               [&](int) {
                   QElapsedTimer clock;
                   clock.start();
                   window.weave()->render(&picture);
                   return double(clock.nsecsElapsed()) / 1e6;
               }),
        "ms", "16");
}

void measureLargeModel(MainWindow& window) {
    window.openDemo();
    window.document().apply(setControlValue(window.document().loom(), "sides", 52));
    window.document().apply(setControlValue(window.document().loom(), "detail", 4));
    waitFresh(window);
    (void)QTest::qWaitFor([&] { return window.stage()->mesh() && window.stage()->mesh()->faceCount > 100000; }, 60000);
    QTest::qWait(500);
    if (!window.stage()->canvas()) return;
    std::printf("the model on the stage has %zu triangles\n", window.stage()->mesh()->triangles.size() / 3);
    auto* overlay = window.stage()->findChild<QWidget*>(QStringLiteral("stageOverlay"));
    QTest::mousePress(overlay, Qt::LeftButton, {}, QPoint(100, 300));
    const auto turn = [&](int i) {
        const QPoint at(100 + i * 4, 300);
        QMouseEvent event(QEvent::MouseMove, at, overlay->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(overlay, &event);
        QElapsedTimer clock;
        clock.start();
        window.stage()->canvas()->picture();
        return window.stage()->canvas()->shown().ms;
    };
    say("turning it: one picture", median(25, turn), "ms", "55");
    std::printf("drawn with fewer triangles while it turns: %s\n", window.stage()->canvas()->shown().reducing ? "yes" : "no");
    QTest::mouseRelease(overlay, Qt::LeftButton, {}, QPoint(200, 300));
}

/// A scan of a million triangles, from the file to the first picture of it on the stage.
void measureImport(MainWindow& window) {
    QTemporaryDir folder;
    const std::string scan = folder.filePath(QStringLiteral("scan.stl")).toStdString();
    if (writeMesh(geodesicBall(224), scan)) return;
    Loom loom;
    Node import, out;
    import.id = import.op = "import_mesh";
    import.settings = {{ "file", scan }};
    out.id = out.op = "output";
    out.cell = {1, 0};
    loom.nodes = {import, out};
    loom.links.push_back({"import_mesh", "", "output", "", Json::object()});
    loom.output = "output";
    QElapsedTimer clock;
    clock.start();
    window.document().adopt(std::move(loom));
    (void)QTest::qWaitFor([&] { return window.stage()->mesh() && window.stage()->mesh()->faceCount > 900000; }, 60000);
    if (window.stage()->canvas()) window.stage()->canvas()->picture();
    say("a scan of 1 000 000 triangles: file to first picture", double(clock.nsecsElapsed()) / 1e6, "ms", "1500");
}

/// A million copies: how much memory they take, and how quick the view turns with them.
void measureCopies(MainWindow& window) {
    Loom loom;
    const auto add = [&](const char* op, const Json& settings, Cell cell) {
        Node node;
        node.id = node.op = op;
        node.settings = settings;
        node.cell = cell;
        loom.nodes.push_back(node);
    };
    add("grid", {{"size", {20, 20}}}, {0, 0});
    add("scatter", {{"count", 1000000}}, {1, 0});
    add("box", {{"size", {0.01, 0.01, 0.01}}}, {1, 1});
    add("place_copies", {{"turn", {{"random", {{"range", {0, 360}}}}}}}, {2, 0});
    loom.links = {{"grid", "", "scatter", "", Json::object()},
                  {"scatter", "", "place_copies", "points", Json::object()},
                  {"box", "", "place_copies", "shapes", Json::object()}};
    loom.output = "place_copies";
    const double before = residentMb();
    QElapsedTimer clock;
    clock.start();
    window.document().adopt(std::move(loom));
    window.weave()->choose("place_copies");
    (void)QTest::qWaitFor([&] { return window.stage()->mesh() && window.stage()->mesh()->copyCount == 1000000; }, 60000);
    if (!window.stage()->canvas()) return;
    window.stage()->frameAll();
    window.stage()->canvas()->picture();
    say("1 000 000 copies: until they are on the stage", double(clock.nsecsElapsed()) / 1e6, "ms", "-");
    QTest::qWait(2500);
    say("1 000 000 copies: memory over the window's", residentMb() - before, "MB", "400");
    auto* overlay = window.stage()->findChild<QWidget*>(QStringLiteral("stageOverlay"));
    QTest::mousePress(overlay, Qt::LeftButton, {}, QPoint(100, 300));
    const auto moveTo = [&](int i) {
        const QPoint at(100 + i * 4, 300);
        QMouseEvent event(QEvent::MouseMove, at, overlay->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(overlay, &event);
    };
    const auto turn = [&](int i) {
        moveTo(i);
        window.stage()->canvas()->picture();
        return window.stage()->canvas()->shown().ms;
    };
    say("1 000 000 copies: one picture while turning", median(15, turn), "ms", "55");
    std::printf("of these as dots: %zu\n", window.stage()->canvas()->shown().copiesAsDots);
    // What the hand feels: an event and all that follows of it in front, while pictures are painted behind.
    say("1 000 000 copies: the interface for one move",
        median(100,
               [&](int i) {
                   QElapsedTimer clock;
                   clock.start();
                   moveTo(i % 50);
                   QApplication::processEvents();
                   return double(clock.nsecsElapsed()) / 1e6;
               }),
        "ms", "16");
    QTest::mouseRelease(overlay, Qt::LeftButton, {}, QPoint(200, 300));
    QTest::qWait(500);
    window.stage()->canvas()->picture();
    say("1 000 000 copies: one picture at rest", window.stage()->canvas()->shown().ms, "ms", "-");
    std::printf("of these as dots: %zu\n", window.stage()->canvas()->shown().copiesAsDots);
}

/// Variations of the demo: the first nine, then all of them while somebody scrolls.
void measureVary(MainWindow& window, std::size_t count) {
    window.openDemo();
    waitFresh(window);
    QDir(VarySheet::cacheFolder()).removeRecursively();
    window.showWorkplace(QStringLiteral("vary"));
    QTest::qWait(1000);
    const double before = residentMb();
    VarySheet& sheet = window.vary().sheet();
    VaryPlan plan = everythingByChance(window.document().loom());
    plan.count = count;
    QElapsedTimer clock;
    clock.start();
    sheet.setPlan(plan);
    say("Vary: what the window does when the plan changes", double(clock.nsecsElapsed()) / 1e6, "ms", "16");
    (void)QTest::qWaitFor([&] { return sheet.count() == count; }, 60000);
    say("Vary: until the plan is on the sheet", double(clock.nsecsElapsed()) / 1e6, "ms", "-");
    const auto seen = [&] {
        std::size_t pictures = 0;
        for (std::size_t i = 0; i < std::min<std::size_t>(9, sheet.count()); ++i)
            pictures += std::size_t(!window.vary().table().picture(i, QSize(140, 105)).isNull());
        return pictures == 9;
    };
    (void)QTest::qWaitFor(seen, 60000);
    say("Vary: the first nine pictures", double(clock.nsecsElapsed()) / 1e6, "ms", "500");
    // How long the window does not answer, while it scrolls through all of them.
    std::vector<double> gaps;
    QElapsedTimer since;
    since.start();
    QTimer beat;
    QObject::connect(&beat, &QTimer::timeout, &window, [&] {
        gaps.push_back(double(since.nsecsElapsed()) / 1e6);
        since.restart();
        QScrollBar* bar = window.vary().view()->verticalScrollBar();
        if (gaps.size() % 30 == 0) bar->setValue(bar->value() >= bar->maximum() ? 0 : bar->value() + bar->pageStep());
    });
    beat.start(4);
    (void)QTest::qWaitFor([&] { return !sheet.running(); }, 3'600'000);
    beat.stop();
    std::sort(gaps.begin(), gaps.end());
    std::printf("%zu variations in %.1f s\n", count, double(clock.elapsed()) / 1e3);
    say("Vary: longest the window did not answer", gaps.back(), "ms", "16");
    std::printf("%zu of %zu times over 16 ms\n", std::size_t(gaps.end() - std::upper_bound(gaps.begin(), gaps.end(), 16.0)), gaps.size());
    say("Vary: of 1 000 times, the longest but one", gaps[gaps.size() * 999 / 1000], "ms", "16");
    say("Vary: memory over the window's", residentMb() - before, "MB", "600");
    QPixmap picture(window.vary().view()->size());
    say("Vary: painting the sheet",
        median(9,
               [&](int) {
                   QElapsedTimer paint;
                   paint.start();
                   window.vary().view()->render(&picture);
                   return double(paint.nsecsElapsed()) / 1e6;
               }),
        "ms", "16");
    window.showWorkplace(QStringLiteral("build"));
}

void measureCancel(MainWindow& window) {
    const auto once = [&](int i) {
        window.document().apply(setControlValue(window.document().loom(), "wear", 0.30 + 0.01 * i));
        QTest::qWait(30);
        QElapsedTimer clock;
        clock.start();
        window.rebuilds().cancel();
        QCoreApplication::processEvents();
        return double(clock.nsecsElapsed()) / 1e6;
    };
    say("giving up a rebuild, until the window answers", median(9, once), "ms", "100");
}

}  // namespace

int main(int argc, char** argv) {
    QElapsedTimer sinceStart;
    sinceStart.start();
    const OwnApplication application(argc, argv);
    MainWindow window;
    window.openDemo();
    bool shown = false;
    QObject::connect(window.stage(), &Stage::meshShown, &window, [&] {
        if (!window.stage()->mesh()) return;
        if (!window.stage()->canvas()) shown = true;
        else QObject::connect(window.stage()->canvas(), &GlCanvas::drawn, &window, [&] { shown = true; });
    });
    window.show();
    (void)QTest::qWaitFor([&] { return shown; }, 20000);
    say("start until the demo's model is on the stage", double(sinceStart.elapsed()), "ms", "1000");
    QTest::qWait(3000);
    say("memory of the idle window", residentMb(), "MB", "300");
    if (QCoreApplication::arguments().contains(QStringLiteral("copies"))) {
        measureCopies(window);
        return 0;
    }
    if (const auto vary = QCoreApplication::arguments().indexOf(QStringLiteral("vary")); vary > 0) {
        measureVary(window, QCoreApplication::arguments().value(vary + 1, QStringLiteral("200")).toULongLong());
        return 0;
    }
    measureLargeGraph(window);
    measureLargeModel(window);
    measureCancel(window);
    measureImport(window);
    measureVary(window, 200);
    measureCopies(window);
    return 0;
}
