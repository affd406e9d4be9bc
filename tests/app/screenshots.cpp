// Takes the pictures in docs/screenshots from the demo data. Run by scripts/screenshots under its own display.
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/library/LibraryDrawer.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/shell/HelpWindow.h"
#include "app/shell/MainWindow.h"
#include "app/shell/PublishWindow.h"
#include "app/shell/StartPage.h"
#include "app/shell/UpdateWindow.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/vary/VaryPanel.h"
#include "app/vary/VaryView.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/Weave.h"
#include "app/widgets/EntryList.h"
#include "app/widgets/Slider.h"
#include "app/workplaces/VaryWorkplace.h"
#include "files/FileIo.h"
#include "publish/Publish.h"
#include "support/OwnApplication.h"

#include <QtCore/QTemporaryDir>
#include <QtGui/QScreen>
#include <QtTest/QtTest>
#include <QtWidgets/QApplication>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTabWidget>
#include <QtWidgets/QTableWidget>

using namespace seedloom;
using namespace seedloom::app;

namespace {

void settle(MainWindow& window) {
    QTest::qWait(150);
    for (int i = 0; i < 100 && window.rebuilds().running(); ++i) QTest::qWait(50);
    QTest::qWait(1200);
    if (auto* canvas = window.stage()->canvas()) canvas->picture();
    QTest::qWait(50);
}

void take(MainWindow& window, const QString& folder, const QString& name) {
    settle(window);
    window.screen()->grabWindow(window.winId()).save(folder + QLatin1Char('/') + name + QStringLiteral(".png"));
}

/// First steps, the workplace with a node pinned, quick add, a drag of points.
void takeTour(MainWindow& window, const QString& folder) {
    window.showFirstSteps(false);
    window.stage()->setWire(true);
    window.weave()->choose("soften");
    window.weave()->togglePin();
    window.weave()->choose("wobble");
    take(window, folder, QStringLiteral("build-linen"));
    window.weave()->choose("body");
    window.weave()->openQuickAdd();
    QTest::qWait(200);
    QTest::keyClicks(window.weave()->quickAdd()->field(), QStringLiteral("smooth"));
    take(window, folder, QStringLiteral("quick-add"));
    QTest::keyClick(window.weave()->quickAdd()->field(), Qt::Key_Escape);
    window.weave()->choose("outline");
    window.stage()->setWire(false);
    window.weave()->choose("soften");
    window.weave()->togglePin();
    window.stage()->setWire(true);
    window.weave()->choose("soften");
    window.toggleCompare(true);
    take(window, folder, QStringLiteral("compare"));
    window.toggleCompare(false);
    window.stage()->setWire(false);
}

/// Numbers beside the marked elements, what the checkup finds.
void takeDrawers(MainWindow& window, const QString& folder) {
    window.weave()->choose("soften");
    window.stage()->setAttribute(QStringLiteral("along"));
    window.showDrawer(QStringLiteral("data"));
    settle(window);
    window.data()->setFilter(QStringLiteral("along > 0.8"));
    take(window, folder, QStringLiteral("data-and-marks"));
    window.data()->setFilter({});
    window.stage()->setMarks({});
    window.stage()->tools()->setShading(seedloom::Shading::clay);
    window.weave()->choose("body");
    window.showDrawer(QStringLiteral("checkup"));
    settle(window);
    for (auto* button : window.checkup()->findChildren<QPushButton*>())
        if (button->isVisible() && button->text() == QLatin1String("Show")) {
            button->click();
            break;
        }
    take(window, folder, QStringLiteral("data-and-checkup"));
    window.stage()->setMarks({});
    window.showDrawer({});
}

/// Attributes: a formula being written, and shading by what it made.
void takeAttributes(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/attribute-tour.loom"));
    window.showDrawer({});
    window.weave()->choose("rub");
    settle(window);
    window.stage()->setAttribute(QStringLiteral("shade"));
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("formula"));
    window.weave()->choose("edges");
    settle(window);
    window.stage()->setAttribute(QStringLiteral("bend"));
    window.weave()->choose("rough");
    settle(window);
    window.document().apply(setSettings(window.document().loom(), {"rough"}, "amount",
                                        seedloom::Json{{"ramp", {{"over", "position.y"}, {"range", "auto"}, {"knots", {{0, 0.0, "smooth"}, {1, 0.03}}}}}}));
    window.document().apply(setSettings(window.document().loom(), {"rough"}, "size", seedloom::Json{{"formula", "ctl.weather * 20.0 + 0.05"}}));
    window.document().apply(setSettings(window.document().loom(), {"rough"}, "blend",
                                        seedloom::Json{{"noise", {{"size", 0.2}, {"octaves", 3}, {"range", {0, 1}}, {"kind", "cell edge"}}}}));
    window.weave()->choose("rough");
    settle(window);
    window.stage()->tools()->setShading(seedloom::Shading::clay);
    take(window, folder, QStringLiteral("sources"));
}

/// A model of many operators, a dome of single panels: what takeInside goes into.
void takeDome(MainWindow& window) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/radar-dome.loom"));
    settle(window);
    window.weave()->choose("out");
    window.weave()->togglePin();
    window.weave()->choose("panels");
    settle(window);
    window.stage()->tools()->setShading(seedloom::Shading::clay);
    window.stage()->frameAll();
    window.weave()->pin({});
}

/// Draws the pieces apart.
void apart(MainWindow& window, double amount) {
    auto* slider = window.stage()->tools()->apart();
    slider->setValue(amount);
    Q_EMIT slider->edited(amount, false);
    settle(window);
    window.stage()->frameAll();
    settle(window);
}

/// What fell: the breakwater at rest, with its frames.
void takeFalling(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/tumbled-breakwater.loom"));
    settle(window);
    window.weave()->pin("out");
    window.weave()->choose("settled");
    window.showDrawer(QStringLiteral("time"));
    window.time()->setRange(0, 120);
    window.time()->setFrame(100);
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("settle"));
    // Several frames at once, and a value that is eased over them.
    auto* ghosts = window.time()->ghostsBox();
    ghosts->setCurrentIndex(ghosts->findData(10));
    Q_EMIT ghosts->activated(ghosts->currentIndex());
    window.document().apply(
        seedloom::setSetting(window.document().loom(), "bed", "amount",
                             seedloom::Json{{"ramp", {{"over", "frame"}, {"range", {0, 120}}, {"knots", {{0, 0.0, "smooth"}, {0.5, 0.3}}}}}}));
    window.weave()->choose("bed");
    window.weave()->pin("settled");
    settle(window);
    for (int i = 0; i < 200 && !window.stage()->ghostMesh(); ++i) QTest::qWait(20);  // ghosts come behind
    settle(window);
    take(window, folder, QStringLiteral("ghosts"));
    ghosts->setCurrentIndex(0);
    Q_EMIT ghosts->activated(0);
    window.weave()->choose("worn");
    window.document().enter("worn");
    settle(window);
    take(window, folder, QStringLiteral("time-step"));
    window.document().leave();
    window.weave()->pin({});
    window.showDrawer({});
}

/// Broken things: the sea wall, with what cut it, and the urchin's shell apart.
void takeBreaking(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/cracked-sea-wall.loom"));
    settle(window);
    window.weave()->pin("out");
    window.weave()->choose("cracked");
    settle(window);
    window.stage()->tools()->setShading(seedloom::Shading::clay);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("sea-wall"));
    window.weave()->pin({});
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/broken-urchin.loom"));
    settle(window);
    window.weave()->choose("out");
    settle(window);
    window.stage()->tools()->setAttribute(QStringLiteral("piece_tone"));
    window.showDrawer(QStringLiteral("checkup"));
    apart(window, 0.6);
    auto* overlay = window.stage()->findChild<QWidget*>(QStringLiteral("stageOverlay"));
    QTest::mouseClick(overlay, Qt::LeftButton, {}, overlay->rect().center() + QPoint(0, 40));
    settle(window);
    take(window, folder, QStringLiteral("urchin-apart"));
    apart(window, 0);
}

/// Strokes over a scan, with the step that makes them.
void takeStrokes(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/seal-in-strokes.loom"));
    settle(window);
    window.weave()->pin("out");
    window.weave()->choose("strokes");
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("strokes"));
    window.weave()->pin({});
}

/// A pebble under the brush, with the strokes that made it.
void takeShaping(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/crusted-rock.loom"));
    settle(window);
    window.weave()->choose("pebble_dented");
    settle(window);
    window.stage()->frameAll();
    if (StrokesField* strokes = window.settings()->strokes()) {
        QTest::mouseClick(strokes->paintButton(), Qt::LeftButton);
        strokes->setRadius(0.4);
        strokes->list()->setCurrentRow(2);
    }
    settle(window);
    auto* overlay = window.stage()->findChild<QWidget*>(QStringLiteral("stageOverlay"));
    QTest::mouseMove(overlay, overlay->rect().center() + QPoint(30, 10));
    QTest::qWait(300);
    take(window, folder, QStringLiteral("shaping"));
    if (StrokesField* strokes = window.settings()->strokes()) strokes->setPainting(false);
}

/// A raw scan with what is offered for it, and what one click makes of it.
void takeScan(MainWindow& window, const QString& folder) {
    window.openFiles({QStringLiteral(SEEDLOOM_SOURCE "/demo/raw-seal.stl")});
    settle(window);
    window.weave()->choose("import_mesh");
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("scan-found"));
    for (QPushButton* button : window.settings()->findChildren<QPushButton*>())
        if (button->text() == QStringLiteral("Make it clean") && button->isVisible()) {
            button->click();
            break;
        }
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("scan-clean"));
}

/// Chips that a guide carries over the edge of a step, with the sheet that is laid over it.
void takeSteps(MainWindow& window, const QString& folder) {
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/chipped-quay-steps.loom"));
    settle(window);
    window.weave()->pin("out");
    window.weave()->choose("over");
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("steps"));
    window.weave()->pin({});
}

/// Inside of a container with one part among all others, and a line that is drawn by hand with its points as handles.
void takeInside(MainWindow& window, const QString& folder) {
    window.weave()->choose("panels");
    window.action(QStringLiteral("open_container"))->trigger();
    settle(window);
    window.weave()->choose("round");
    window.document().setPart(19);
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("inside"));
    window.action(QStringLiteral("go_out"))->trigger();
}

/// What there is to begin with.
void takeStart(MainWindow& window, const QString& folder) {
    window.showStart(true);
    take(window, folder, QStringLiteral("start-page"));
    window.showStart(false);
}

/// A control's editor, and the report of a bollard whose wall may be thicker than it can be.
void takePublishing(MainWindow& window, const QString& folder) {
    using namespace seedloom;
    window.openDemo();
    settle(window);
    window.build().showDrawer({});
    Control wall = *window.document().loom().control("height");
    wall.max = 6, wall.high = 2;
    wall.allowedWhen = "ctl.height > 0.2";
    window.document().apply(changeControl(window.document().loom(), wall));
    window.controls()->askForChange("height");
    take(window, folder, QStringLiteral("control"));
    window.document().undo();
    PublishWindow* publish = window.showPublish();
    publish->setAttribute(Qt::WA_DeleteOnClose, false);
    publish->move(140, 70);
    Loom told = window.document().loom();
    Node* thick = nullptr;
    for (Node& node : told.nodes)
        if (node.op == "thicken") thick = &node;
    if (thick) window.document().apply(setSetting(told, thick->id, "thickness", Json{{"formula", "0.02 + pow(ctl.height, 4.0) * 0.02"}}));
    publish->check();
    while (publish->run().running()) QTest::qWait(50);
    publish->onlyUnfit()->setChecked(true);
    if (publish->table()->rowCount() == 0) publish->onlyUnfit()->setChecked(false);
    publish->table()->selectRow(0);
    settle(window);
    window.screen()->grabWindow(0).save(folder + QStringLiteral("/publish.png"));
    publish->close();
    delete publish;
}

/// A demo as a pack on a shelf, as another version where one is given.
void putOnShelf(const QString& shelf, const char* demo, const char* version, const std::function<void(Loom&)>& change = {}) {
    auto subject = fitSubjectFrom(QStringLiteral(SEEDLOOM_SOURCE "/demo/%1.loom").arg(QLatin1String(demo)).toStdString());
    Loom loom = *subject->loom;
    AssetAbout about = aboutOf(loom);
    about.version = version;
    loom = withAbout(std::move(loom), about);
    if (change) change(loom);
    subject->loom = std::make_shared<const Loom>(std::move(loom));
    const auto bytes = publishedPack(*subject);
    QDir().mkpath(shelf);
    if (bytes) writeFileAtomically(QStringLiteral("%1/%2-%3.loompack").arg(shelf, QLatin1String(demo), QLatin1String(version)).toStdString(), *bytes);
}

/// What a newer version of an asset changes: to be looked at, not kept.
void takeUpdate(MainWindow& window, const QString& folder, const QString& shelf) {
    UpdateWindow* update = window.showUpdate(shelf + QStringLiteral("/mooring-bollard-1.1.0.loompack"));
    update->move(160, 90);
    while (update->building()) QTest::qWait(50);
    settle(window);
    window.screen()->grabWindow(0).save(folder + QStringLiteral("/update.png"));
    update->close();
}

/// Shelves with packs, and a loom that uses an older one.
void takeLibrary(MainWindow& window, const QString& folder, bool withUpdate = false) {
    const QTemporaryDir place;
    const QString quay = place.filePath(QStringLiteral("Quay furniture")), sea = place.filePath(QStringLiteral("From the sea"));
    putOnShelf(quay, "mooring-bollard", "1.0.0");
    putOnShelf(quay, "mooring-bollard", "1.1.0", [](Loom& loom) {
        for (Control& control : loom.controls)
            if (control.id == "height") control.fallback = 1.1, control.max = 2.4, control.help = "From the quay to the top of its head.";
        if (auto less = applied(loom, removeControl(loom, "wear"))) loom = std::move(*less);
    });
    putOnShelf(quay, "fish-crate", "1.0.0");
    putOnShelf(quay, "harbour-sign", "2.0.1");
    putOnShelf(sea, "whelk", "1.0.0");
    putOnShelf(sea, "net-floats", "1.0.0");
    window.library().addShelf(quay);
    window.library().addShelf(sea);
    window.document().startNew();
    settle(window);
    window.weave()->placeAsset(quay + QStringLiteral("/mooring-bollard-1.0.0.loompack"));
    const std::string node = window.weave()->chosen();
    window.document().apply(setSetting(window.document().loom(), node, "wear", 0.9, window.document().assets()));
    window.showLibrary(true);
    window.libraryDrawer()->choose(QStringLiteral("Mooring bollard"));
    settle(window);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("library"));
    if (withUpdate) takeUpdate(window, folder, quay);
    window.showLibrary(false);
    window.library().removeShelf(quay);
    window.library().removeShelf(sea);
}

/// Waits until all variations are made.
void settleVary(VaryWorkplace& vary) {
    QTest::qWait(200);
    while (vary.sheet().running()) QTest::qWait(50);
    QTest::qWait(900);
    if (auto* canvas = vary.stage()->canvas()) canvas->picture();
    QTest::qWait(100);
}

/// Variations of the bollard: heights against wear, some of them starred. `states`: others as well, to be looked at, not kept.
void takeVary(MainWindow& window, const QString& folder, bool states = false) {
    window.openDemo();
    settle(window);
    window.showWorkplace(QStringLiteral("vary"));
    VaryWorkplace& vary = window.vary();
    const auto shoot = [&](const QString& name) {
        settleVary(vary);
        window.screen()->grabWindow(window.winId()).save(folder + QLatin1Char('/') + name + QStringLiteral(".png"));
    };
    if (states) shoot(QStringLiteral("vary-nothing"));
    VaryPlan plan;
    using How = VariedControl::How;
    for (const auto& [id, how] : {std::pair{"height", How::steps}, {"wear", How::steps}, {"seed", How::random}}) {
        const Control* control = window.document().loom().control(id);
        if (!control) continue;
        plan.controls.push_back(proposedFor(window.document().loom(), *control, how));
    }
    vary.sheet().setPlan(plan);
    settleVary(vary);
    VaryTable::Arrangement grid;
    grid.columns = "wear", grid.rows = "height";
    vary.table().arrange(grid);
    for (const std::size_t i : {1, 6, 9, 14}) vary.toggleStar(i);
    vary.view()->choose(6);
    shoot(QStringLiteral("vary"));
    if (!states) return window.showWorkplace(QStringLiteral("build"));
    plan = everythingByChance(window.document().loom());
    plan.count = 60;
    vary.table().arrange({});
    vary.sheet().setPlan(plan);
    shoot(QStringLiteral("vary-chance"));
    vary.compareWith(vary.sheet().variation(vary.sheet().inUse()));
    window.resize(1024, 700);
    shoot(QStringLiteral("vary-small"));
    setAppearance(ThemeName::night, 1);
    window.rebuildInterface();
    window.resize(1280, 800);
    shoot(QStringLiteral("vary-night"));
    setAppearance(ThemeName::linen, 1);
    window.rebuildInterface();
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/dune-boardwalk.loom"));
    settle(window);
    plan = {};
    plan.controls = {{"way", How::values, {"way-over-the-crest.obj", "way-along-the-shore.obj", "way-to-the-lookout.obj"}, 0, 1, 1},
                     {"width", How::steps, {}, 0.8, 2.4, 3}};
    vary.sheet().setPlan(plan);
    settleVary(vary);
    vary.view()->choose(4);
    shoot(QStringLiteral("vary-ways"));
    window.showWorkplace(QStringLiteral("build"));
}

/// An empty loom, and help: to be looked at, not kept.
void takeEmpty(MainWindow& window, const QString& folder) {
    window.document().startNew();
    take(window, folder, QStringLiteral("empty-loom"));
    window.showHelp(QStringLiteral("operator:revolve"));
    settle(window);
    window.screen()->grabWindow(0).save(folder + QStringLiteral("/help.png"));
    window.help()->close();
    window.showStart(true);
    window.startPage()->showLeft({{"", QStringLiteral("Quay steps"), 12, QDateTime(QDate(2026, 11, 30), QTime(17, 42))}});
    take(window, folder, QStringLiteral("start-left"));
    window.showStart(false);
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/fish.svg"));
    take(window, folder, QStringLiteral("drawing-offered"));
    window.answerMessage(QStringLiteral("A solid"));
    settle(window);
    take(window, folder, QStringLiteral("drawing-taken"));
}

void takeNight(MainWindow& window, const QString& folder) {
    window.openDemo();
    settle(window);
    setAppearance(ThemeName::night, 1);
    window.rebuildInterface();
    window.weave()->choose("soften");
    window.weave()->togglePin();
    window.weave()->choose("wobble");
    window.stage()->tools()->setShading(Shading::clay);
    window.stage()->setWire(true);
    take(window, folder, QStringLiteral("build-night"));
    setAppearance(ThemeName::linen, 1);
}

/// Failed, skipped, tinted, several chosen: to be looked at, not kept.
void takeStates(MainWindow& window, const QString& folder) {
    using namespace seedloom;
    const auto apply = [&](const Edit& edit) { window.document().apply(edit); };
    apply(setSetting(window.document().loom(), "wall", "thickness", {{"attribute", "widht"}}));
    apply(setSetting(window.document().loom(), "even", "count", 2));
    apply(setSkipped(window.document().loom(), {"wobble"}, true));
    for (int i = 1; i <= 6; ++i) {
        std::string id;
        apply(addNode(window.document().loom(), "sphere", {i - 1, 2}, &id));
        apply(setTint(window.document().loom(), {id}, i));
    }
    window.weave()->chooseAll({"sphere", "sphere_2", "wall"});
    window.showDrawer(QStringLiteral("notices"));
    take(window, folder, QStringLiteral("states"));
    window.weave()->choose("body");
    window.stage()->tools()->setOverlay(QStringLiteral("normals"), true);
    window.stage()->tools()->setOverlay(QStringLiteral("numbers"), true);
    window.stage()->tools()->setOverlay(QStringLiteral("xray"), true);
    window.stage()->tools()->setOverlay(QStringLiteral("open_edges"), true);
    take(window, folder, QStringLiteral("overlays"));
    for (const char* id : {"normals", "numbers", "xray", "open_edges"}) window.stage()->tools()->setOverlay(QLatin1String(id), false);
    window.weave()->choose("soften");
    window.controls()->askForChange("height");
    window.stage()->tools()->setShading(seedloom::Shading::checker);
    take(window, folder, QStringLiteral("control-form"));
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/net-floats.loom"));
    window.showDrawer({});
    take(window, folder, QStringLiteral("net-floats"));
    const QString copy = folder + QStringLiteral("/float.loom");
    window.saveTo(copy);
    window.action(QStringLiteral("recent"))->trigger();
    settle(window);
    window.screen()->grabWindow(0).save(folder + QStringLiteral("/recent.png"));
    QApplication::activeModalWidget()->close();
    window.action(QStringLiteral("settings"))->trigger();
    for (int page = 0; page < 3; ++page) {
        if (auto* pages = window.findChild<QTabWidget*>()) pages->setCurrentIndex(page);
        settle(window);
        window.screen()->grabWindow(0).save(folder + QStringLiteral("/settings-%1.png").arg(page));
    }
    QApplication::activeModalWidget()->close();
    window.openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/carved-seal.loom"));
    settle(window);
    apply(setCut(window.document().loom(), window.document().loom().links.back(), true));
    apply(setCut(window.document().loom(), window.document().loom().links[4], true));
    window.stage()->lookFrom(4);
    window.stage()->frameAll();
    take(window, folder, QStringLiteral("cut-and-axis"));
    setAppearance(ThemeName::linen, 1.5);
    window.rebuildInterface();
    window.resize(1024, 768);
    window.showDrawer(QStringLiteral("checkup"));
    take(window, folder, QStringLiteral("large-texts"));
}

}  // namespace

int main(int argc, char** argv) {
    const OwnApplication application(argc, argv);
    const QString folder = QCoreApplication::arguments().value(1, QStringLiteral("."));
    MainWindow window;
    const QStringList size = QCoreApplication::arguments().value(2, QStringLiteral("1280x800")).split(QLatin1Char('x'));
    window.resize(size[0].toInt(), size[1].toInt());
    window.openDemo();
    window.show();
    if (!QTest::qWaitForWindowExposed(&window)) return 1;
    if (QCoreApplication::arguments().contains(QStringLiteral("--states"))) {
        takeStates(window, folder);
        return 0;
    }
    // Any loom, at a node: to be looked at, not kept.
    if (const auto at = QCoreApplication::arguments().indexOf(QStringLiteral("--loom")); at >= 0) {
        window.openFile(QCoreApplication::arguments().value(at + 1));
        settle(window);
        window.weave()->choose(QCoreApplication::arguments().value(at + 2).toStdString());
        settle(window);
        window.stage()->frameAll();
        take(window, folder, QStringLiteral("loom"));
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--publish"))) {
        takePublishing(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--vary"))) {
        takeVary(window, folder, true);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--library"))) {
        takeLibrary(window, folder, true);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--start"))) {
        takeStart(window, folder);
        takeEmpty(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--breaking"))) {
        takeBreaking(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--steps"))) {
        takeSteps(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--scan"))) {
        takeScan(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--strokes"))) {
        takeStrokes(window, folder);
        takeShaping(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--falling"))) {
        takeFalling(window, folder);
        return 0;
    }
    if (QCoreApplication::arguments().contains(QStringLiteral("--attributes"))) {
        takeAttributes(window, folder);
        takeDome(window);
        takeInside(window, folder);
        return 0;
    }
    takeTour(window, folder);
    takeStart(window, folder);
    window.openDemo();
    takeDrawers(window, folder);
    takeAttributes(window, folder);
    takeDome(window);
    takeInside(window, folder);
    takeSteps(window, folder);
    takeBreaking(window, folder);
    takeFalling(window, folder);
    takePublishing(window, folder);
    takeLibrary(window, folder);
    takeVary(window, folder);
    takeNight(window, folder);
    return 0;
}
