// The library in a real window: shelves, searching, putting assets into the weave, and updating what is used.
#include "WindowTest.h"
#include "app/library/LibraryDrawer.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/PresetBar.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/UpdateWindow.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/widgets/AssetMime.h"
#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "graph/NodeSpec.h"
#include "publish/Publish.h"

#include <fmt/format.h>

#include <QtWidgets/QComboBox>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListView>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPushButton>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// A post of a height, and, where it is wanted, with what is plugged in on top of it.
std::string post(const char* version, double height, const char* more = "") {
    return fmt::format(R"({{"seedloom": 1, "name": "Post", "version": "{}", "summary": "A post for the quay.", "author": "Gull Rock", "licence": "CC0",
        "tags": ["quay", "wood"], "controls": [{{"id": "height", "label": "Height", "type": "number", "default": {}, "min": 0.2, "max": 4}}{}],
        "nodes": [{{"id": "b", "op": "box", "cell": [0, 0], "settings": {{"size": {{"formula": "vec3(0.2, ctl.height, 0.2) "}}, "anchor": "bottom"}}}},
                  {{"id": "o", "op": "output", "cell": [1, 0]}}], "links": [["b", "o"]], "output": "o"}})",
                       version, height, more);
}

constexpr const char* kTwice = R"({"seedloom": 1, "name": "Twice", "version": "1.0.0", "summary": "Sets something beside itself.", "tags": ["tool"],
    "nodes": [{"id": "i", "op": "input_geometry", "cell": [0, 0], "settings": {"name": "what"}},
              {"id": "s", "op": "transform", "cell": [1, 1], "settings": {"move": [1, 0, 0]}}, {"id": "m", "op": "merge", "cell": [2, 0]},
              {"id": "o", "op": "output", "cell": [3, 0]}],
    "links": [["i", "m"], ["i", "s"], ["s", "m"], ["m", "o"]], "output": "o"})";

}  // namespace

class TestLibrary : public WindowTest {
    Q_OBJECT

    QString shelf_;

    void put(const QString& name, const std::string& loom) const {
        FitSubject subject;
        subject.loom = std::make_shared<const Loom>(*loomFromText(loom));
        const auto bytes = publishedPack(subject);
        QVERIFY2(bool(bytes), bytes ? "" : bytes.error().text.c_str());
        QVERIFY(!writeFileAtomically((shelf_ + '/' + name).toStdString(), *bytes));
    }
    LibraryDrawer* drawer() { return window_->libraryDrawer(); }
    void openLibrary() {
        window_->library().addShelf(shelf_);
        run("library");
        QVERIFY(drawer()->isVisible());
        QTRY_VERIFY_WITH_TIMEOUT(!window_->library().reading(), 10000);
    }
    QStringList shown() {
        QStringList out;
        for (int row = 0; row < drawer()->model().rowCount(); ++row) out << drawer()->model().index(row).data().toString();
        return out;
    }
    const Node* assetNode() {
        for (const Node& node : document().shown().nodes)
            if (node.op == "asset") return &node;
        return nullptr;
    }
    QString file(const char* name) const { return shelf_ + '/' + QLatin1String(name); }
    void drop(const QString& what, QPoint at) {
        QMimeData data;
        data.setData(QLatin1String(kAssetMime), what.toUtf8());
        QDragEnterEvent enter(at, Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(weave(), &enter);
        QVERIFY(enter.isAccepted());
        QDragMoveEvent move(at, Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(weave(), &move);
        QVERIFY(!weave()->grab().isNull());
        QDropEvent dropped(QPointF(at), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(weave(), &dropped);
    }

private Q_SLOTS:
    void init() {
        shelf_ = folder_.filePath(QStringLiteral("shelf-%1").arg(QRandomGenerator::global()->generate()));
        QVERIFY(QDir().mkpath(shelf_));
        put("post-1.0.0.loompack", post("1.0.0", 1));
        put("post-1.1.0.loompack", post("1.1.0", 1.5, R"(, {"id": "cap", "label": "Cap", "type": "boolean", "default": true})"));
        put("twice.loompack", kTwice);
        QVERIFY(!writeFileAtomically(file("torn.loompack").toStdString(), "no pack"));
        openDemoWindow();
    }
    void cleanup() {
        window_->library().removeShelf(shelf_);
        window_.reset();
        QDir(shelf_).removeRecursively();
    }

    void shelvesAreShownAndSearched() {
        openLibrary();
        QCOMPARE(shown().mid(0, 4), (QStringList{QDir(shelf_).dirName(), "Post 1.1.0", "Twice 1.0.0", "torn"}));
        QVERIFY(shown().contains("Demos from Gull Rock harbour") && shown().contains("Mooring bollard 1.0.0"));
        // Words of the summary; all of them.
        QTest::keyClicks(drawer()->search(), "quay POST");
        QCOMPARE(shown(), (QStringList{QDir(shelf_).dirName(), "Post 1.1.0"}));
        QTest::keyClicks(drawer()->search(), " nothing");
        QVERIFY(shown().size() == 1 && shown()[0].startsWith("Nothing fits"));
        drawer()->search()->clear();
        const int tag = drawer()->tag()->findData(QStringLiteral("tool"));
        QVERIFY2(tag > 0, "tags of the shelves are offered");
        drawer()->tag()->setCurrentIndex(tag);
        Q_EMIT drawer()->tag()->activated(tag);
        QCOMPARE(shown(), (QStringList{QDir(shelf_).dirName(), "Twice 1.0.0"}));
        drawer()->tag()->setCurrentIndex(0);
        Q_EMIT drawer()->tag()->activated(0);
        // What is broken says so and can't be used; a shelf can be folded away.
        QVERIFY(drawer()->choose("torn") && !drawer()->placeButton()->isEnabled());
        QVERIFY(drawer()->choose("Post") && drawer()->placeButton()->isEnabled());
        const auto rows = shown().size();
        drawer()->list()->setCurrentIndex(drawer()->model().index(0));
        QTest::keyClick(drawer()->list(), Qt::Key_Return);
        QCOMPARE(shown().size(), rows - 3);
        // Pictures come for what is seen.
        drawer()->list()->setCurrentIndex(drawer()->model().index(0));
        QTest::keyClick(drawer()->list(), Qt::Key_Return);
        const auto& row = drawer()->model().row(drawer()->model().find("Post"));
        QTRY_VERIFY_WITH_TIMEOUT(!drawer()->model().picture(row).isNull(), 5000);
        run("library");
        QVERIFY(!drawer()->isVisible());
    }

    void aFolderThatChangesOrVanishesIsNoticed() {
        openLibrary();
        put("lamp.loompack", [] {
            std::string text = post("0.1.0", 2);
            return text.replace(text.find("\"Post\""), 6, "\"Lamp\"");
        }());
        QTRY_VERIFY_WITH_TIMEOUT(shown().contains("Lamp 0.1.0"), 10000);
        QDir(shelf_).removeRecursively();
        QTRY_VERIFY_WITH_TIMEOUT(shown().value(1).contains("can't be read"), 10000);
        drawer()->list()->setCurrentIndex(drawer()->model().index(0));
        QMenu* menu = drawer()->makeMenu();
        QAction* away = nullptr;
        for (QAction* action : menu->actions())
            if (action->text() == QStringLiteral("Take the shelf away")) away = action;
        QVERIFY(away);
        away->trigger();
        menu->deleteLater();
        QTRY_VERIFY_WITH_TIMEOUT(shown().value(0).startsWith("Demos"), 10000);
    }

    void anAssetIsPutBesideOrInto() {
        openLibrary();
        document().startNew();
        waitFresh();
        // Before the output that waits.
        QVERIFY(drawer()->choose("Post"));
        drawer()->version()->setCurrentIndex(1);
        QTest::mouseClick(drawer()->placeButton(), Qt::LeftButton);
        const Node* node = assetNode();
        QVERIFY(node);
        QCOMPARE(node->label, std::string("Post"));
        QCOMPARE(node->settings["asset"], Json(file("post-1.0.0.loompack").toStdString()));
        QVERIFY(std::abs(height() - 1.0f) < 1e-4f);
        QCOMPARE(QString::fromStdString(weave()->chosen()), QString::fromStdString(node->id));
        // What takes geometry goes into the thread behind the chosen node; Enter in the list does the same.
        QVERIFY(drawer()->choose("Twice"));
        QTest::keyClick(drawer()->list(), Qt::Key_Return);
        waitFresh();
        QVERIFY(std::abs(boundsOf(output()).size().x - 1.2f) < 1e-4f);
        QCOMPARE(loom().nodes.size(), std::size_t(3));
        undo();
        QCOMPARE(loom().nodes.size(), std::size_t(2));
        QVERIFY(std::abs(boundsOf(output()).size().x - 0.2f) < 1e-4f);
    }

    void anAssetIsDraggedIntoTheWeave() {
        openLibrary();
        const std::size_t before = loom().nodes.size();
        const Loom old = loom();
        drop(file("post-1.1.0.loompack"), weave()->cellRect({1, 3}).center().toPoint());
        const Node* node = assetNode();
        QVERIFY(node);
        QCOMPARE(node->cell, (Cell{1, 3}));
        QVERIFY(document().specOf(*node)->setting("cap"));
        undo();
        QCOMPARE(loom(), old);
        // Onto a thread.
        Link into;
        for (const Link& link : loom().links)
            if (link.to == loom().output) into = link;
        weave()->showAll();
        QTest::qWait(300);
        drop(file("twice.loompack"), weave()->linkMiddle(into).toPoint());
        node = assetNode();
        QVERIFY(node);
        const bool between = std::any_of(loom().links.begin(), loom().links.end(), [&](const Link& l) { return l.from == into.from && l.to == node->id; }) &&
                             std::any_of(loom().links.begin(), loom().links.end(), [&](const Link& l) { return l.from == node->id && l.to == loom().output; });
        QVERIFY(between);
        QCOMPARE(loom().nodes.size(), before + 1);
        const float wide = boundsOf(output()).size().x;
        undo();
        QVERIFY(std::abs(wide - boundsOf(output()).size().x - 1) < 1e-3f);
        // Other things are not taken.
        QMimeData text;
        text.setText("post");
        QDragEnterEvent enter(QPoint(40, 40), Qt::CopyAction, &text, Qt::LeftButton, {});
        enter.ignore();
        QApplication::sendEvent(weave(), &enter);
        QVERIFY(!enter.isAccepted());
    }

    void aNewerVersionIsOfferedComparedAndTaken() {
        openLibrary();
        document().startNew();
        weave()->placeAsset(file("post-1.0.0.loompack"));
        const std::string id = assetNode()->id;
        document().apply(setSetting(loom(), id, "height", 0.5, document().assets()));
        waitFresh();
        QTRY_VERIFY_WITH_TIMEOUT(window_->message().contains("Post 1.1.0 is in the library; this loom uses 1.0.0"), 10000);
        const auto& row = drawer()->model().row(drawer()->model().find("Post"));
        QCOMPARE(drawer()->model().olderInUse(row), QStringList{"1.0.0"});
        const Loom before = loom();
        QVERIFY(window_->answerMessage("See what changes …"));
        auto* update = window_->findChild<UpdateWindow*>();
        QVERIFY(update);
        QTRY_VERIFY_WITH_TIMEOUT(!update->building(), 20000);
        QStringList told;
        for (int i = 0; i < update->list()->count(); ++i) told << update->list()->item(i)->text().trimmed();
        QCOMPARE(told, (QStringList{"Changed  ·  Height", "Default: 1 → 1.5", "New  ·  Cap", "Default: true"}));
        QVERIFY2(update->facts().contains("the same to the bit"), qPrintable(update->facts()));  // its height is set
        QVERIFY(update->stage()->subject().outcome && update->stage()->comparing());
        update->stage()->tools()->setShading(Shading::difference);
        QVERIFY(!update->stage()->comparing());  // in one picture instead
        QTest::mouseClick(update->cancelButton(), Qt::LeftButton);
        QCOMPARE(loom(), before);
        // Taken, in one step.
        document().apply(setSetting(loom(), id, "height", Json(), document().assets()));
        waitFresh();
        QCOMPARE(height(), 1.0f);
        update = window_->showUpdate(file("post-1.1.0.loompack"));
        QTRY_VERIFY_WITH_TIMEOUT(!update->building(), 20000);
        QVERIFY2(update->facts().contains("0.2 × 1 × 0.2 m → 0.2 × 1.5 × 0.2 m"), qPrintable(update->facts()));
        QTest::mouseClick(update->takeButton(), Qt::LeftButton);
        waitFresh();
        QCOMPARE(height(), 1.5f);
        QVERIFY(window_->message().contains("1 node"));
        QVERIFY(drawer()->model().olderInUse(drawer()->model().row(drawer()->model().find("Post"))).isEmpty());
        undo();
        QCOMPARE(height(), 1.0f);
        // Nothing to update: said.
        document().startNew();
        QVERIFY(!window_->showUpdate(file("post-1.1.0.loompack")) && window_->message().contains("Nothing in this loom"));
        QVERIFY(!window_->showUpdate(file("torn.loompack")));
    }

    void twoVersionsStandBesideEachOther() {
        document().startNew();
        weave()->placeAsset(file("post-1.0.0.loompack"));
        const std::string first = weave()->chosen();
        weave()->placeAsset(file("post-1.1.0.loompack"));
        const std::string second = weave()->chosen();
        waitFresh();
        QVERIFY(first != second);
        QCOMPARE(boundsOf(window_->rebuilds().outcome(first)->geometry).size().y, 1.0f);
        QCOMPARE(boundsOf(window_->rebuilds().outcome(second)->geometry).size().y, 1.5f);
    }

    void anAssetIsMadeLocalAndChanged() {
        document().startNew();
        weave()->placeAsset(file("post-1.0.0.loompack"));
        const std::string id = weave()->chosen();
        run("make_local");
        QVERIFY(window_->message().contains("Save this loom first"));
        const QString saved = folder_.filePath("local/quay.loom");
        QDir().mkpath(folder_.filePath("local"));
        QVERIFY(window_->saveTo(saved));
        run("make_local");
        QVERIFY2(window_->message().contains("stands for"), qPrintable(window_->message()));
        QCOMPARE(loom().node(id)->settings["asset"], Json("post-1.0.0/post-1.0.0.loom"));
        QCOMPARE(height(), 1.0f);
        const std::string copy = folder_.filePath("local/post-1.0.0/post-1.0.0.loom").toStdString();
        Loom changed = *readLoom(copy);
        changed.controls[0].fallback = 3.0;
        QVERIFY(!writeLoom(changed, copy));
        document().rereadAssets();
        QTRY_COMPARE_WITH_TIMEOUT(height(), 3.0f, 10000);
        run("make_local");
        QVERIFY(window_->message().contains("a loom already"));
        undo();
        QCOMPARE(height(), 1.0f);
    }

    void aPackIsUnpackedIntoAWindow() {
        const QString to = folder_.filePath("copy-of-post");
        const auto before = MainWindow::windows().size();
        QVERIFY(window_->unpackTo(file("post-1.0.0.loompack"), to));
        QCOMPARE(MainWindow::windows().size(), before + 1);
        for (MainWindow* window : MainWindow::windows())
            if (window != window_.get()) {
                QCOMPARE(window->document().title(), QStringLiteral("Post"));
                QVERIFY(!window->document().modified());
                window->close();
            }
        QVERIFY(!window_->unpackTo(file("post-1.0.0.loompack"), to) && window_->message().contains("is there already"));
        QVERIFY(!window_->unpackTo(file("torn.loompack"), folder_.filePath("torn")) && window_->message().startsWith("No copy was made"));
    }

    void presetsHavePictures() {
        PresetBar* bar = window_->controls()->presets();
        QVERIFY(loom().presets.size() >= 3);
        QSignalSpy ready(&bar->pictures(), &PresetPictures::ready);
        bar->presets()->showPopup();
        bar->presets()->hidePopup();
        QTRY_COMPARE_WITH_TIMEOUT(std::size_t(ready.size()), loom().presets.size(), 60000);
        std::set<QByteArray> seen;
        for (const Preset& preset : loom().presets) {
            const QImage image = bar->pictures().picture(preset.name).toImage();
            QVERIFY(!image.isNull());
            seen.insert(QByteArray(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes()));
        }
        QVERIFY2(seen.size() >= 2, "presets look different");
        for (int i = 0; i < bar->presets()->count(); ++i) QVERIFY(!bar->presets()->itemData(i, Qt::UserRole + 1).value<QPixmap>().isNull());
        // What is drawn is kept until the model or the preset is another.
        bar->pictures().want();
        document().apply(setControlValue(loom(), "height", 0.7));
        document().apply(savePreset(loom(), "Mine"));
        bar->pictures().want();
        QTRY_COMPARE_WITH_TIMEOUT(std::size_t(ready.size()), loom().presets.size(), 60000);
        QVERIFY(!bar->pictures().picture("Mine").isNull());
    }

    void whatIsBrokenIsToldWithWhatHelps() {
        Control idle;
        idle.id = "idle", idle.label = "Idle", idle.fallback = 1.0;
        Loom with = loom();
        with.controls.push_back(idle);
        document().adopt(with);
        waitFresh();
        window_->showDrawer("notices");
        auto* notices = window_->findChild<QListWidget*>();
        for (QListWidget* list : window_->findChildren<QListWidget*>())
            if (list->accessibleName() == QStringLiteral("Notices")) notices = list;
        const auto button = [&]() -> QPushButton* {
            for (int i = 0; i < notices->count(); ++i)
                if (QWidget* row = notices->itemWidget(notices->item(i)))
                    for (QPushButton* one : row->findChildren<QPushButton*>())
                        if (one->text() == QStringLiteral("Remove it")) return one;
            return nullptr;
        };
        QTRY_VERIFY_WITH_TIMEOUT(button(), 5000);
        QVERIFY(window_->controls()->line("idle"));
        QTest::mouseClick(button(), Qt::LeftButton);
        QVERIFY(!loom().control("idle"));
        QTRY_VERIFY_WITH_TIMEOUT(!button(), 5000);
        undo();
        QVERIFY(loom().control("idle"));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestLibrary>(argc, argv); }
#include "test_library.moc"
