// The drawers, by mouse and keys in a real window.
#include "WindowTest.h"
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/FrameBar.h"
#include "app/data/StatisticsStrip.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/Weave.h"
#include "app/widgets/Slider.h"
#include "geometry/Checkup.h"
#include "geometry/Measures.h"

#include <QtGui/QClipboard>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

class TestDrawers : public WindowTest {
    Q_OBJECT

    Stage* stage() { return window_->stage(); }
    /// A box with a side missing, some points doubled.
    void openBrokenBox() {
        auto outcome = std::make_shared<NodeOutcome>();
        std::vector<Vec3> points{{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}, {0, 1, 0}, {1, 1, 0}, {1, 1, 1}, {0, 1, 1}, {0, 0, 0}};
        Topology topology(9, {0, 4, 8, 12, 16, 20}, {0, 1, 2, 3, 4, 7, 6, 5, 8, 4, 5, 1, 1, 5, 6, 2, 2, 6, 7, 3}, {0}, {}, {});
        outcome->geometry = Geometry(points, topology);
        window_->showDrawer("checkup");
        window_->checkup()->show("Broken box", outcome);
        QTRY_VERIFY(!window_->checkup()->busy());
    }

    static void addNode(Loom& loom, const char* id, const char* op, Json settings, Cell cell) {
        Node node;
        node.id = id, node.op = op, node.settings = std::move(settings), node.cell = cell;
        loom.nodes.push_back(std::move(node));
    }
    /// A broken block with crumbs, chosen and seen.
    void openBrokenBlock() {
        Loom loom;
        addNode(loom, "block", "box", {{"cells", {2, 2, 2}}}, {0, 0});
        addNode(loom, "broken", "shatter", {{"pieces", 3}}, {1, 0});
        addNode(loom, "crumbled", "crumble_edges", {{"width", 0.2}, {"crumbs", 3}}, {2, 0});
        addNode(loom, "out", "output", Json::object(), {3, 0});
        loom.links = {{"block", "", "broken", "", Json::object()}, {"broken", "", "crumbled", "", Json::object()}, {"crumbled", "", "out", "", Json::object()}};
        loom.output = "out";
        document().adopt(loom);
        waitFresh();
        weave()->choose("crumbled");
        waitFresh();
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->hasKinds && stage()->mesh()->comesApart);
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    // Drawers

    void dataSortsFiltersAndCopies() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 24);
        data->sortBy(1, true);
        QTRY_VERIFY(!data->busy());
        const Geometry even = window_->rebuilds().outcome("even")->geometry;
        const auto& positions = even.positions();
        for (int row = 1; row < 16; ++row) QVERIFY(positions[data->model()->elementAt(row - 1)].y >= positions[data->model()->elementAt(row)].y);
        data->setFilter("position.y > 0.5");
        QTRY_VERIFY(!data->busy());
        const int left = data->model()->rowCount();
        QCOMPARE(left, int(std::count_if(positions.begin(), positions.end(), [](Vec3 p) { return p.y > 0.5f; })));
        QCOMPARE(stage()->marks().rows.size(), std::size_t(left));
        data->setFilter("hieght > 1");
        QTRY_VERIFY(!data->busy());
        bool said = false;
        for (auto* label : data->findChildren<QLabel*>()) said |= label->text().contains("hieght");
        QVERIFY(said);
        data->setFilter({});
        QTRY_COMPARE(data->model()->rowCount(), 24);
        data->copy();
        const QStringList lines = QGuiApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 25);
        QVERIFY(lines[0].startsWith("point,position.x,position.y"));
        QCOMPARE(lines[1].split(',')[2].toFloat(), positions[data->model()->elementAt(0)].y);
        // Whatever people read: commas part the values of what is copied.
        decimalComma() = true;
        data->copy();
        decimalComma() = false;
        QCOMPARE(QGuiApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts), lines);
    }

    void aClickOnAColumnsHeadSortsColoursAndSumsUp() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 24);
        QHeaderView* head = data->table()->horizontalHeader();
        const auto clickHead = [&](int column) {
            QTest::mouseClick(head->viewport(), Qt::LeftButton, {}, QPoint(head->sectionViewportPosition(column) + 20, head->height() / 2));
        };
        const Geometry even = window_->rebuilds().outcome("even")->geometry;
        const auto& positions = even.positions();
        const auto first = [&] { return positions[data->model()->elementAt(0)].y; };
        clickHead(1);
        QTRY_VERIFY(!data->busy() && data->strip()->accessibleDescription().startsWith("position.y"));
        QVERIFY(data->model()->ordered() && first() < 0.01f);
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->legend.title == "position");
        clickHead(1);
        QTRY_VERIFY(!data->busy() && first() > 0.89f);
        clickHead(1);
        QTRY_VERIFY(!data->model()->ordered());
        // Rebuilds do not add to what a change of column sets off.
        for (int i = 0; i < 5; ++i) {
            document().apply(setSetting(loom(), "even", "count", 17 + i));
            waitFresh();
        }
        QTRY_COMPARE(data->model()->rowCount(), 21);
        QTRY_COMPARE(data->strip()->statistics().count, 21u);
    }

    void dataColumnsCanBeHiddenFrozenAndPinned() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 24);
        const int before = data->model()->columnCount();
        data->model()->hideAttributes({"tangent"});
        QCOMPARE(data->model()->columnCount(), before - 3);
        data->freezeButton()->click();
        document().apply(setSetting(loom(), "even", "count", 30));
        waitFresh();
        QCOMPARE(data->model()->rowCount(), 24);
        data->freezeButton()->click();
        QTRY_COMPARE(data->model()->rowCount(), 30);
        data->pinButton()->click();
        click("outline");
        QCOMPARE(data->model()->rowCount(), 30);
        data->pinButton()->click();
        QTRY_COMPARE(data->model()->rowCount(), 6);
    }

    void theStripTellsWhatAColumnIsLike() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 24);
        data->table()->setCurrentIndex(data->model()->index(0, 1));
        QTRY_VERIFY(data->strip()->statistics().count == 24 && data->strip()->accessibleDescription().startsWith("position.y"));
        QVERIFY(std::abs(data->strip()->statistics().least) < 1e-6 && std::abs(data->strip()->statistics().most - 0.9) < 1e-5);
    }

    void theCheckupFindsShowsAndMends() {
        openBrokenBox();
        const auto& findings = window_->checkup()->report().findings;
        QStringList codes;
        for (const Finding& f : findings) codes << QString::fromStdString(f.code);
        QVERIFY(codes.contains("open_edges") && codes.contains("doubled_points"));
        // Show marks what was found.
        weave()->choose("body");
        window_->checkup()->show("Revolve", window_->rebuilds().outcome("body"));
        QTRY_VERIFY(!window_->checkup()->busy());
        const auto button = [&](const QString& text) -> QPushButton* {
            for (auto* one : window_->checkup()->findChildren<QPushButton*>())
                if (one->isVisible() && one->text() == text) return one;
            return nullptr;
        };
        QVERIFY(button("Show"));
        QTest::mouseClick(button("Show"), Qt::LeftButton);
        QCOMPARE(stage()->marks().edges.size(), checkupOf(window_->rebuilds().outcome("body")->geometry).openEdges);
        // The fix is a node behind the one that was looked at.
        QVERIFY(button("Add Thicken"));
        QTest::mouseClick(button("Add Thicken"), Qt::LeftButton);
        QCOMPARE(loom().node(weave()->chosen())->op, std::string("thicken"));
        QVERIFY(reaches(loom(), "body", weave()->chosen()));
        waitFresh();
        QVERIFY(checkupOf(window_->rebuilds().outcome(weave()->chosen())->geometry).closed);
    }

    void theCheckupMeasuresASoundSolid() {
        window_->showDrawer("checkup");
        weave()->choose("soften");
        QTRY_VERIFY_WITH_TIMEOUT(!window_->checkup()->busy() && window_->checkup()->report().facts.closed, 20000);
        const CheckupReport& report = window_->checkup()->report();
        QVERIFY(report.findings.empty() && report.intersectionsChecked);
        QVERIFY(report.wall && report.wall->least > 0.005 && report.wall->least < 0.05);
        bool said = false;
        for (auto* label : window_->checkup()->findChildren<QLabel*>()) said |= label->text().startsWith("Sound");
        QVERIFY(said);
    }

    /// What a notice knows to help is a button in the drawer: one click, one step back.
    void noticesOfferWhatHelps() {
        Loom loom;
        addNode(loom, "plate", "grid", {{"cells", {2, 2}}}, {0, 0});
        addNode(loom, "peg", "box", {{"size", {0.1, 0.1, 0.1}}}, {0, 1});
        addNode(loom, "pegs", "place_copies", Json::object(), {1, 0});
        addNode(loom, "rise", "extrude", {{"distance", 0.05}}, {2, 0});
        addNode(loom, "out", "output", Json::object(), {3, 0});
        loom.links = {{"plate", "", "pegs", "points", Json::object()},
                      {"peg", "", "pegs", "shapes", Json::object()},
                      {"pegs", "", "rise", "", Json::object()},
                      {"rise", "", "out", "", Json::object()}};
        loom.output = "out";
        document().adopt(loom);
        waitFresh();
        QCOMPARE(window_->rebuilds().report("rise").state, NodeState::failed);
        window_->showDrawer("notices");
        QPushButton* offer = nullptr;
        QTRY_VERIFY([&] {
            for (auto* button : window_->findChildren<QPushButton*>())
                if (button->text() == "Put Bake copies before") offer = button;
            return offer != nullptr;
        }());
        QTest::mouseClick(offer, Qt::LeftButton);
        waitFresh();
        QCOMPARE(document().loom().nodes.size(), std::size_t(6));
        const Node* made = document().loom().node(weave()->chosen());
        QVERIFY(made && made->op == "bake_copies");
        QVERIFY(reaches(document().loom(), "pegs", made->id) && reaches(document().loom(), made->id, "rise"));
        QCOMPARE(window_->rebuilds().report("rise").state, NodeState::fresh);
        // A closed region has no border, so no sides are made: its faces have moved outwards.
        QCOMPARE(output().faceCount(), 9u * 6u);
        QVERIFY(std::abs(height() - 0.2f) < 1e-5f);
        undo();
        QCOMPARE(document().loom().nodes.size(), std::size_t(5));
    }

    /// A solid broken in the window: a gap that leaves nothing is mended by one click, and a line that parts nothing is shown.
    /// One face is clicked, then all of its kind are marked: by the button on the stage, the keys, and in Data.
    void kindsAreMarkedAsAWhole() {
        openBrokenBlock();
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->geometry.column(Element::face, "crumb"));
        const Geometry shown = stage()->mesh()->geometry;  // what the stage holds may change
        const auto count = [&](auto&& holds) {
            std::size_t out = 0;
            for (Index f = 0; f < shown.faceCount(); ++f) out += holds(f);
            return out;
        };
        const auto tag = [&](const char* name, Index f) { return (*shown.values<std::uint8_t>(Element::face, name))[f] != 0; };
        const std::size_t skin = count([&](Index f) { return !tag("crumb", f) && !tag("inside", f); }),
                          crumbs = count([&](Index f) { return tag("crumb", f); }),
                          broken = count([&](Index f) { return !tag("crumb", f) && tag("inside", f); });
        QVERIFY(skin > 5 && crumbs > 5 && broken > 5);
        QVERIFY(stage()->kindButton()->isHidden());
        stage()->frameAll();
        auto* overlay = stage()->findChild<QWidget*>("stageOverlay");
        QTest::mouseClick(overlay, Qt::LeftButton, {}, overlay->rect().center());
        QTRY_COMPARE(stage()->marks().rows.size(), std::size_t(1));
        QVERIFY(stage()->kindButton()->isVisible());
        const bool onCrumb = tag("crumb", stage()->marks().rows[0]);
        QTest::mouseClick(stage()->kindButton(), Qt::LeftButton);
        QCOMPARE(stage()->marks().rows.size(), onCrumb ? crumbs : tag("inside", stage()->marks().rows[0]) ? broken : skin);
        const auto first = [&](auto&& holds) {
            for (Index f = 0; f < shown.faceCount(); ++f)
                if (holds(f)) return f;
            return Index(0);
        };
        stage()->setMarks({Element::face, {first([&](Index f) { return tag("crumb", f); })}, {}});
        QCOMPARE(stage()->kindButton()->text(), Stage::tr("All crumbs"));
        window_->action(QStringLiteral("mark_kind"))->trigger();
        QCOMPARE(stage()->marks().rows.size(), crumbs);
        // In Data they are the rows that are left.
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        data->setElement(Element::face);
        QVERIFY(!data->kindButton()->isEnabled());
        data->chooseRow(Element::face, first([&](Index f) { return !tag("crumb", f) && tag("inside", f); }), false);
        QVERIFY(data->kindButton()->isEnabled());
        QTest::mouseClick(data->kindButton(), Qt::LeftButton);
        QTRY_VERIFY(!data->busy());
        QCOMPARE(data->model()->rowCount(), int(broken));
        QCOMPARE(stage()->marks().rows.size(), broken);
        stage()->setMarks({});
        QVERIFY(stage()->kindButton()->isHidden());
        window_->action(QStringLiteral("mark_kind"))->trigger();
        QVERIFY(stage()->marks().empty());
    }
    /// The slider draws pieces apart, and nothing of the model changes.
    void piecesApartAreAViewOnly() {
        openBrokenBlock();
        const Loom before = document().loom();
        const Geometry model = window_->rebuilds().outcome("crumbled")->geometry;
        const Vec3 size = stage()->mesh()->size;
        Slider* slider = stage()->tools()->apart();
        QVERIFY(slider->isVisible());
        QTest::mouseClick(slider, Qt::LeftButton, {}, slider->pixelOf(1));
        QTRY_VERIFY(boundsOf(stage()->mesh()->geometry.positions()).size().x > size.x * 1.3f);
        QCOMPARE(stage()->mesh()->size, size);
        QVERIFY(stage()->remarks().join(' ').contains(Stage::tr("pieces apart for looking only")));
        QCOMPARE(window_->rebuilds().outcome("crumbled")->geometry.positions(), model.positions());
        QVERIFY(document().loom() == before);
        // Each piece keeps its shape.
        const auto& drawn = stage()->mesh()->geometry;
        const auto& piece = *drawn.values<std::int32_t>(Element::face, "piece");
        std::map<std::int32_t, Vec3> moved;
        for (Index f = 0; f < drawn.faceCount(); ++f)
            for (Index p : drawn.topology().face(f)) {
                const Vec3 by = drawn.positions()[p] - model.positions()[p];
                QVERIFY(distance(moved.try_emplace(piece[f], by).first->second, by) < 1e-5f);
            }
        // While a hand paints, and where there are no pieces, all is in its place.
        stage()->setBrush(Brush{});
        QTRY_COMPARE(stage()->mesh()->geometry.positions(), model.positions());
        stage()->setBrush({});
        QTRY_VERIFY(stage()->mesh()->geometry.positions() != model.positions());
        weave()->choose("block");
        QTRY_VERIFY(!stage()->mesh()->comesApart);
        QVERIFY(!slider->isVisible());
        QCOMPARE(stage()->mesh()->geometry.positions(), window_->rebuilds().outcome("block")->geometry.positions());
    }
    void breakingOffersWhatHelps() {
        Loom loom;
        addNode(loom, "block", "box", {{"cells", {2, 2, 2}}}, {0, 0});
        addNode(loom, "lines", "point_list", {{"points", {{-0.6, 0.5, 3}, {0.6, 0.5, 3}}}}, {0, 1});
        addNode(loom, "broken", "shatter", {{"gap", 5}}, {1, 0});
        addNode(loom, "cut", "cut_along_curves", Json::object(), {1, 1});
        addNode(loom, "out", "output", Json::object(), {2, 0});
        loom.links = {{"block", "", "broken", "", Json::object()},
                      {"block", "", "cut", "", Json::object()},
                      {"lines", "", "cut", "curves", Json::object()},
                      {"broken", "", "out", "", Json::object()}};
        loom.output = "out";
        document().adopt(loom);
        waitFresh();
        weave()->choose("cut");
        waitFresh();
        window_->showDrawer("notices");
        const auto button = [&](const QString& start) {
            QPushButton* found = nullptr;
            for (auto* each : window_->findChildren<QPushButton*>())
                if (each->text().startsWith(start)) found = each;
            return found;
        };
        QTRY_VERIFY(button("Set Gap to"));
        QTest::mouseClick(button("Set Gap to"), Qt::LeftButton);
        waitFresh();
        QCOMPARE(window_->rebuilds().report("broken").state, NodeState::fresh);
        QVERIFY(output().values<std::int32_t>(Element::face, "piece") && output().topology().connection().pieces > 15);
        undo();
        waitFresh();
        QCOMPARE(window_->rebuilds().report("broken").state, NodeState::failed);
        weave()->choose("cut");
        waitFresh();
        QTRY_VERIFY(button("Show the lines"));
        QTest::mouseClick(button("Show the lines"), Qt::LeftButton);
        QTRY_COMPARE(weave()->chosen(), std::string("lines"));
        QCOMPARE(stage()->marks().rows, std::vector<Index>{0});
        QCOMPARE(stage()->marks().element, Element::curve);
    }

    /// Frames that are done are filled; without a step that builds on earlier frames there is no bar.
    void theTimeDrawerShowsWhichFramesAreDone() {
        window_->showDrawer("time");
        auto* bar = window_->time()->findChild<FrameBar*>();
        QVERIFY(bar && !bar->isVisible());
        std::vector<std::uint8_t> kept(61, 0);
        std::fill(kept.begin(), kept.begin() + 31, std::uint8_t(1));
        window_->time()->setRange(0, 60);
        window_->time()->setKept(kept);
        QVERIFY(bar->isVisible());
        QVERIFY(bar->toolTip().contains("31 frames"));
        const QImage shown = bar->grab().toImage();
        const QRgb done = shown.pixel(shown.width() / 4, shown.height() / 2), open = shown.pixel(shown.width() * 3 / 4, shown.height() / 2);
        QVERIFY(done != open);
        QCOMPARE(QColor(done), colours().fresh);
    }

    void timeDrivesFormulasAndFramesAreRemembered() {
        document().apply(setSetting(loom(), "body", "height_scale", {{"formula", "1 + frame * 0.01"}}));
        window_->showDrawer("time");
        const float still = height();
        TimeDrawer* time = window_->time();
        time->setRange(0, 20);
        Slider* scrub = time->scrubber();
        drag(scrub, scrub->pixelOf(0), scrub->pixelOf(20));
        QCOMPARE(time->frame(), 20.0);
        waitFresh();
        QVERIFY(std::abs(height() - still * 1.2f) < 1e-4f);
        time->setFrame(0);
        waitFresh();
        QVERIFY(window_->rebuilds().report("soften").remembered);
        QVERIFY(std::abs(height() - still) < 1e-6f);
        // Playing goes on by itself, and begins again after the last frame.
        time->setRange(0, 3);
        QTest::mouseClick(time->playButton(), Qt::LeftButton);
        QVERIFY(time->playing());
        QSignalSpy frames(&window_->session().selection(), &Selection::frameChanged);
        QTRY_VERIFY(frames.count() > 6);
        QTest::mouseClick(time->playButton(), Qt::LeftButton);
        QVERIFY(!time->playing());
        for (const auto& one : frames) QVERIFY(one[0].toDouble() >= 0 && one[0].toDouble() <= 3);
        time->setLoops(false);
        time->setFrame(0);
        time->play(true);
        QTRY_VERIFY_WITH_TIMEOUT(!time->playing(), 10000);
        QCOMPARE(time->frame(), 3.0);
    }

    /// What falls: a frame is kept, let go again, and the one at which all rests is found.
    void aFrameOfWhatFallsIsKept() {
        std::string fall;
        document().apply(addNodeAfter(loom(), "transform", "soften", &fall));
        document().apply(setSetting(loom(), fall, "move", {0, 1, 0}));
        window_->showDrawer("time");
        TimeDrawer* time = window_->time();
        QVERIFY(!time->keepButton()->isVisible() && !time->restButton()->isVisible());
        std::string settle;
        document().apply(addNodeAfter(loom(), "settle", fall, &settle));
        document().apply(setSetting(loom(), settle, "frames", 90));
        window_->weave()->choose(settle);
        QVERIFY(time->keepButton()->isVisible() && time->restButton()->isVisible());
        const auto kept = [&] { return loom().node(settle)->settings.value("at_frame", -1); };
        time->setRange(0, 90);
        time->setFrame(6);
        waitFresh();
        QVERIFY(time->kept().size() > 6 && time->kept()[6] && !time->kept()[20]);
        const auto lowest = [&] { return boundsOf(window_->rebuilds().outcome(settle)->geometry).min.y; };
        const float falling = lowest();
        QVERIFY(falling > 0.2f);
        QTest::mouseClick(time->keepButton(), Qt::LeftButton);
        QCOMPARE(kept(), 6);
        QCOMPARE(time->keepButton()->text(), QStringLiteral("Follow the frames"));
        time->setFrame(40);
        waitFresh();
        QCOMPARE(lowest(), falling);
        run("undo");
        QCOMPARE(kept(), -1);
        QCOMPARE(time->keepButton()->text(), QStringLiteral("Keep this frame"));
        QTest::mouseClick(time->restButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(kept() >= 0, 60000);
        waitFresh();
        QVERIFY(kept() > 20 && kept() < 90);
        QCOMPARE(time->frame(), double(kept()));
        QVERIFY(std::abs(lowest()) < 0.02f);
        QTest::mouseClick(time->keepButton(), Qt::LeftButton);
        QCOMPARE(kept(), -1);
        // A control that allows no number below 0 keeps a frame always: it is set, and never taken off.
        Control frame;
        frame.id = "moment", frame.label = "Moment", frame.type = "integer", frame.fallback = 5, frame.min = 0, frame.max = 50;
        document().apply(makeControl(loom(), {}, settle, "at_frame", frame));
        QCOMPARE(time->keepButton()->text(), QStringLiteral("Keep this frame"));
        QVERIFY(!time->restButton()->isVisible());
        time->setFrame(12);
        QTest::mouseClick(time->keepButton(), Qt::LeftButton);
        QCOMPARE(loom().valueInUse("moment"), Json(12));
        time->setFrame(80);
        QTest::mouseClick(time->keepButton(), Qt::LeftButton);
        QCOMPARE(loom().valueInUse("moment"), Json(50));
        QVERIFY(loom().node(settle)->settings.value("at_frame", Json()).is_object());
        document().apply(setSetting(loom(), settle, "at_frame", nullptr));
        // Too few frames to come to rest: it is said, and nothing changes.
        document().apply(setSetting(loom(), settle, "frames", 10));
        QTest::mouseClick(time->restButton(), Qt::LeftButton);
        QTRY_COMPARE_WITH_TIMEOUT(time->frame(), 10.0, 10000);
        waitFresh();
        QCOMPARE(kept(), -1);
    }

    /// Ghosts: other frames around the one that is shown, of which the document knows nothing.
    void ghostsShowOtherFrames() {
        std::string rise;
        document().apply(addNodeAfter(loom(), "transform", "soften", &rise));
        document().apply(setSetting(loom(), rise, "move", {{"formula", "vec3(0, frame * 0.1, 0)"}}));
        window_->weave()->choose(rise);
        window_->showDrawer("time");
        TimeDrawer* time = window_->time();
        time->setRange(0, 20);
        time->setFrame(0);
        waitFresh();
        const auto edits = document().history().count();
        const auto ghosts = [&] { return window_->stage()->ghostMesh(); };
        const auto choose = [&](int every) {
            time->ghostsBox()->setCurrentIndex(time->ghostsBox()->findData(every));
            Q_EMIT time->ghostsBox()->activated(time->ghostsBox()->currentIndex());
        };
        QVERIFY(!ghosts());
        choose(10);
        QTRY_VERIFY(ghosts());
        const float tall = height();
        const auto span = [&] { return std::pair(ghosts()->bounds.min.y, ghosts()->bounds.max.y); };
        QVERIFY(std::abs(span().first - 1) < 1e-3f && std::abs(span().second - 2 - tall) < 1e-2f);  // 10 and 20, not 0
        time->setFrame(20);
        waitFresh();
        QTRY_VERIFY(std::abs(span().first) < 1e-3f);
        QVERIFY(std::abs(span().second - 1 - tall) < 1e-2f);
        QCOMPARE(document().history().count(), edits);
        // Only while the drawer is open.
        window_->showDrawer({});
        QTRY_VERIFY(!ghosts());
        window_->showDrawer("time");
        QTRY_VERIFY(ghosts());
        // Of steps that build on earlier frames only those that are done; one that keeps a frame shows its others as well.
        std::string step;
        document().apply(addNodeAfter(loom(), "settle", rise, &step));
        document().apply(setSetting(loom(), rise, "move", {0, 1, 0}));
        window_->weave()->choose(step);
        time->setFrame(12);
        waitFresh();
        QTRY_VERIFY(ghosts());
        QCOMPARE(time->ghostFrames(12), (std::vector<int>{0, 10}));
        QTRY_VERIFY(std::abs(span().second - 1 - tall) < 0.05f);
        QTest::mouseClick(time->keepButton(), Qt::LeftButton);
        waitFresh();
        time->setFrame(0);
        waitFresh();
        QTRY_VERIFY(ghosts() && std::abs(span().second - 1 - tall) < 0.05f);
        const std::size_t faces = ghosts()->geometry.faceCount();
        choose(5);
        QTRY_COMPARE(ghosts()->geometry.faceCount(), faces / 2 * 3);  // 0, 5 and 10 of 12
        choose(0);
        QTRY_VERIFY(!ghosts());
    }
};

int main(int argc, char** argv) { return runWindowTest<TestDrawers>(argc, argv); }
#include "test_drawers.moc"
