#include "app/shell/MainWindow.h"

#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/Trail.h"
#include "app/weave/Weave.h"
#include "app/widgets/LinesField.h"
#include "app/workplaces/NodeHandles.h"
#include "app/workplaces/OpenInput.h"
#include "graph/Controls.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

namespace {
constexpr int kRestMs = 250;  // a hand that has not moved for so long rests
}

MainWindow::MainWindow() {
    resize(1280, 800);
    setWindowIcon(icon(QStringLiteral("seedloom"), colours().chosen));
    setAcceptDrops(true);
    makeActions();
    makeLayout();
    rest_.setSingleShot(true);
    rest_.setInterval(kRestMs);
    connect(&rest_, &QTimer::timeout, this, [this] { rebuildNow(RebuildService::Mode::full); });
    connect(&document_, &Document::changed, this, &MainWindow::documentChanged);
    connect(&document_, &Document::placeChanged, this, &MainWindow::placeChanged);
    connect(&document_, &Document::gestureEnded, this, [this] {
        if (rest_.isActive() || rebuilds_.incomplete()) rebuildNow(RebuildService::Mode::full);
    });
    connect(&pictures_, &Pictures::ready, this, &MainWindow::keepPicture);
    connect(&document_, &Document::replaced, this, [this] {
        pictureWanted_.clear();
        compare_ = false;
        stage_->frameNext();
        stage_->setMarks({});
        time_->setFrame(0);
        showMessage({});
    });
    connect(&document_, &Document::conflict, this, [this](const QString& reason) { showMessage(reason); });
    connect(&document_, &Document::journalFailed, this,
            [this](const QString& reason) { showMessage(tr("Edits are not journalled any more, so save now and then. %1").arg(reason)); });
    connect(&rebuilds_, &RebuildService::stateChanged, this, [this] {
        time_->setReady(!rebuilds_.running());
        showStage();
    });
    connect(&rebuilds_, &RebuildService::finished, this, [this] {
        showChosen();
        stage_->endFraming();
        showNotices();
    });
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this] { QTimer::singleShot(300, this, &MainWindow::checkDisk); });
    restoreLayout();
    document_.startNew();
}

MainWindow::~MainWindow() {
    exports_.wait();
    document_.disconnect();
    rebuilds_.disconnect();
    pictures_.disconnect();
    delete takeCentralWidget();
}

/// All that is connected to panels, made again with them.
void MainWindow::connectPanels() {
    connect(weave_, &Weave::chosenChanged, this, [this] {
        settings_->setNodes(weave_->chosenAll());
        showChosen();
    });
    connect(weave_, &Weave::pinnedChanged, this, &MainWindow::showChosen);
    connect(weave_, &Weave::settingsWanted, settings_, &SettingsPanel::focusFirst);
    connect(weave_, &Weave::menuWanted, this, &MainWindow::fillContextMenu);
    connect(stage_, &Stage::handleMoved, this, &MainWindow::moveHandle);
    connect(stage_, &Stage::handleInsertWanted, this, &MainWindow::insertHandle);
    connect(stage_, &Stage::handleRemoveWanted, this, &MainWindow::removeHandle);
    connect(settings_, &SettingsPanel::brushChanged, this, [this] {
        const StrokesField* strokes = settings_->strokes();
        const Node* node = document_.shown().node(weave_->chosen());
        // Whoever begins to paint wants to see the mask.
        if (node && strokes && strokes->painting() && !stage_->brush())
            stage_->setAttribute(node->op == "scatter" ? QStringLiteral("density") : QString::fromStdString(node->settings.value("name", std::string("mask"))));
        stage_->setBrush(strokes && strokes->painting() ? std::optional(strokes->brush()) : penOf(node));
        showStage();  // what is drawn on is shown while it is drawn on
    });
    connect(stage_, &Stage::brushResized, this, [this](double radius) {
        if (StrokesField* strokes = settings_->strokes()) strokes->setRadius(radius);
    });
    connect(stage_, &Stage::painted, this, &MainWindow::paintStroke);
    connect(stage_, &Stage::directionSettled, &pictures_, &Pictures::setDirection);
    connect(stage_, &Stage::compareWanted, this, &MainWindow::toggleCompare);
    // Menu and buttons say the same.
    connect(stage_->tools(), &StageTools::overlayChanged, this, [this](const QString& id, bool on) { action(id)->setChecked(on); });
    connect(stage_, &Stage::picked, this, [this](bool hit, Element element, Index row, bool extend) {
        if (!hit) return extend ? void() : stage_->setMarks({});
        StageMarks marks = stage_->marks();
        if (!extend || marks.element != element || !marks.edges.empty()) marks = {element, {}, {}};
        if (std::erase(marks.rows, row) == 0) marks.rows.push_back(row);
        stage_->setMarks(marks);
        if (data_->isVisible()) data_->chooseRow(element, row, extend);
    });
    connect(data_, &DataDrawer::rowsChosen, this, [this](Element element, const std::vector<Index>& rows) { stage_->setMarks({element, rows, {}}); });
    connect(data_, &DataDrawer::columnChosen, stage_, &Stage::setAttribute);
    connect(stage_, &Stage::marksChanged, this, &MainWindow::showOrigins);
    connect(stage_->tools(), &StageTools::lookChanged, this, [this] {
        showOrigins();
        showStage();  // differences need what the node is compared with
    });
    connect(data_, &DataDrawer::pinChanged, this, &MainWindow::showChosen);
    connect(checkup_, &CheckupDrawer::showWanted, this, [this](const Finding& finding) {
        weave_->pin({});
        stage_->setMarks({finding.element, finding.rows, finding.edges});
        stage_->frameMarks();
    });
    connect(checkup_, &CheckupDrawer::fixWanted, this, [this](const CheckupFix& fix) {
        std::string id;
        const Loom& loom = document_.shown();
        const Node* node = loom.node(weave_->chosen());
        Edit edit;
        // Behind the node; before it where nothing may come behind.
        for (const Link& link : loom.links)
            if (node && node->op == "output" && link.to == node->id) edit = insertOnLink(loom, fix.op, link, &id);
        if (node && edit.empty()) edit = addNodeAfter(loom, fix.op, node->id, &id);
        // One gesture: one step to undo.
        const int gesture = document_.newGesture();
        document_.applyShown(edit, gesture);
        for (const auto& [setting, value] : fix.settings.items())
            document_.applyShown(setSetting(document_.shown(), id, setting, value, document_.assets()), gesture);
        document_.endGesture();
        if (!id.empty()) weave_->choose(id);
    });
    connect(checkup_, &CheckupDrawer::verdictChanged, this,
            [this](const QString& verdict, bool) { checkupButton_->setText(verdict.isEmpty() ? tr("Checkup") : tr("Checkup · %1").arg(verdict)); });
    connect(time_, &TimeDrawer::frameChanged, this, [this](double, bool gesture) {
        rebuildNow(gesture ? RebuildService::Mode::sliding : RebuildService::Mode::full);
        if (gesture) rest_.start();
    });
    connect(time_, &TimeDrawer::rested, this, [this] { rebuildNow(RebuildService::Mode::full); });
    connect(settings_, &SettingsPanel::controlWanted, this, [this](const QString& node, const Control& proposed, const QString& setting) {
        controls_->askForNew(node.toStdString(), setting.toStdString(), proposed);
    });
    connect(settings_, &SettingsPanel::controlDropped, this, [this](const QString& id) { document_.apply(removeControl(document_.loom(), id.toStdString())); });
    connect(controls_, &ControlsPanel::settingDropped, this, [this](const QString& node, const QString& setting) {
        const SettingRow* row = settings_->row(setting.toStdString());
        if (row && row->canBecomeControl()) return controls_->askForNew(node.toStdString(), setting.toStdString(), row->proposedControl());
        showMessage(tr("Only a fixed number, choice or text can become a control. Set the source of this one to Fixed first."));
    });
    connect(notices_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        const std::string node = item->data(Qt::UserRole).toString().toStdString();
        // Notices are those of the document's own nodes; what went wrong inside is told by the container.
        document_.leave(document_.place().path.size());
        if (!node.empty()) weave_->choose(node);
    });
    connect(weave_, &Weave::openWanted, this, &MainWindow::openChosen);
    connect(trail_, &Trail::surroundingsChanged, this, &MainWindow::showStage);
    weave_->installEventFilter(this);
    stage_->installEventFilter(this);
}

/// Another graph or part: the panels speak of its nodes, and the rebuild reports them; most of it is in the memo.
void MainWindow::placeChanged() {
    settings_->setNodes({});
    settings_->setNodes(weave_->chosenAll());
    stage_->setMarks({});
    rebuildNow(RebuildService::Mode::full);
    showChosen();
}

/// The finished container around what is looked at.
Stage::Subject MainWindow::surroundings() const {
    if (paintsDensity()) return subjectOf(weave_->chosen());
    if (stage_->brush() && stage_->brush()->pen && stage_->brush()->plane < 0) return inputOf(weave_->chosen());
    if (!document_.inside() || !trail_->surroundings()) return {};
    std::string full;
    for (const std::string& id : document_.place().path) full += (full.empty() ? "" : "/") + id;
    return {{}, rebuilds_.outcomeOf(full)};
}

bool MainWindow::paintsDensity() const {
    const Node* node = document_.shown().node(weave_->chosen());
    return stage_->brush() && node && node->op == "scatter" && weave_->pinned().empty();
}

/// The pen, while a drawn curve is drawn.
std::optional<Brush> MainWindow::penOf(const Node* node) const {
    const LinesField* lines = settings_->lines();
    if (!node || !lines || !lines->drawing()) return {};
    Brush pen;
    pen.pen = true;
    const std::string plane = node->settings.value("plane", std::string("ground"));
    pen.plane = plane == "surface" ? -1 : plane == "side" ? 0 : plane == "front" ? 2 : 1;
    return pen;
}

void MainWindow::openChosen() {
    const Node* node = document_.shown().node(weave_->chosen());
    if (node && node->op == kAsset) return openAsset(*node);
    if (!node || !node->graph) return showMessage(tr("Only containers can be opened: Each piece, Repeat, Nest and Asset."));
    document_.enter(node->id);
    weave_->setFocus();
}

/// An asset is edited as what it is, a document of its own; here it follows once that is saved.
void MainWindow::openAsset(const Node& node) {
    if (!insideOf(node, document_.assets())) return showMessage(tr("There is no loom to open. Choose the asset's file in the settings."));
    const std::filesystem::path file = document_.file().parent_path() / assetFileOf(node.settings);
    MainWindow* window = openNew();
    window->openFile(QString::fromStdString(file.string()));
    window->show();
}

void MainWindow::goOut() {
    if (!document_.inside()) return;
    document_.leave();
    weave_->setFocus();
}

void MainWindow::foldChosen() {
    if (const auto problem = foldProblem(document_.shown(), weave_->chosenAll())) return showMessage(QString::fromStdString(problem->text));
    std::string id;
    document_.applyShown(foldIntoNest(document_.shown(), weave_->chosenAll(), &id));
    weave_->choose(id);
}

void MainWindow::unfoldChosen() {
    if (const auto problem = unfoldProblem(document_.shown(), weave_->chosen())) return showMessage(QString::fromStdString(problem->text));
    std::vector<std::string> ids;
    document_.applyShown(unfoldNest(document_.shown(), weave_->chosen(), &ids));
    if (!ids.empty()) weave_->chooseAll(std::move(ids));
}

void MainWindow::documentChanged() {
    const auto name = [](QAction* action, const QString& verb, const QString& what, bool can) {
        action->setText(can ? verb + QLatin1Char(' ') + what : verb);
        action->setEnabled(can);
    };
    name(undo_, tr("Undo"), document_.undoText(), document_.history().undoable());
    name(redo_, tr("Redo"), document_.redoText(), document_.history().redoable());
    setWindowTitle(tr("%1%2 — Seed Loom").arg(document_.title(), document_.modified() ? tr(" (edited)") : QString()));
    stage_->setHandles(handlesOf(weave_->chosen()));
    if (watchedAssets_ != document_.assetFiles()) watchFile();
    const bool sliding = document_.inGesture();
    rebuildNow(sliding ? RebuildService::Mode::sliding : RebuildService::Mode::full);
    if (sliding) rest_.start();
    else rest_.stop();
}

void MainWindow::rebuildNow(RebuildService::Mode mode) {
    rest_.stop();
    auto values = controlValues(document_.loom());
    if (!values) {
        showMessage(QString::fromStdString(values.error().text));
        values = ControlValues();
    }
    rebuilds_.setPlace(document_.place());
    rebuilds_.setFolder(document_.file().parent_path().string());
    rebuilds_.request(document_.snapshot(), document_.assets(), std::move(*values), time_->frame(), TimeDrawer::kFramesPerSecond, mode);
}

QString MainWindow::nameOf(const std::string& id) const {
    const Node* node = document_.shown().node(id);
    return node ? QString::fromStdString(displayName(*node)) : QString();
}

Stage::Subject MainWindow::subjectOf(const std::string& node, std::size_t output) const { return {nameOf(node), rebuilds_.outcome(node), output}; }

Stage::Subject MainWindow::inputOf(const std::string& id) const {
    for (const Link& link : document_.shown().links)
        if (link.to == id) return subjectOf(link.from, outputOf(document_.shown(), link));
    return {};
}

MainWindow::Compared MainWindow::compared() const {
    const auto& chosen = weave_->chosenAll();
    const std::string &pinned = weave_->pinned(), &last = weave_->chosen();
    if (chosen.size() == 2) return {chosen[0], chosen[1], subjectOf(chosen[0]), subjectOf(chosen[1])};
    if (!pinned.empty() && pinned != last) return {pinned, last, subjectOf(pinned), subjectOf(last)};
    for (const Link& link : document_.shown().links)
        if (link.to == last) return {link.from, last, inputOf(last), subjectOf(last)};
    return {};
}

void MainWindow::toggleCompare(bool on) {
    compare_ = on && !compared().leftNode.empty();
    if (on && !compare_) showMessage(tr("There is nothing before this node to compare it with. Choose another one, or two."));
    showChosen();
}

/// A stroke grows with every place that the brush comes to; all of it is one step back.
void MainWindow::paintStroke(Vec3 at, Vec3 normal, int phase) {
    if (settings_->lines()) return drawLine(at, phase);
    if (phase == 0) handleGesture_ = document_.newGesture();
    if (phase == 2) return document_.endGesture();
    const Node* node = document_.shown().node(weave_->chosen());
    if (!node || !stage_->brush()) return;
    const Brush& brush = *stage_->brush();
    Json strokes = node->settings.contains("strokes") && node->settings["strokes"].is_array() ? node->settings["strokes"] : Json::array();
    const auto plain = [](double v) { return std::round(v * 1e5) / 1e5; };
    if (phase == 0) {
        constexpr std::array<const char*, 3> modes{"add", "remove", "smooth"};
        Json stroke{{"points", Json::array()},
                    {"radius", plain(brush.radius)},
                    {"strength", plain(brush.strength)},
                    {"soft", plain(brush.soft)},
                    {"mode", modes[std::size_t(brush.mode)]}};
        if (!brush.mirror.empty()) stroke["mirror"] = brush.mirror;
        strokes.push_back(std::move(stroke));
    } else if (strokes.empty()) {
        return;
    }
    Json& points = strokes.back()["points"];
    if (!points.empty()) {
        // A fifth of the radius is as fine as the brush can show.
        const Json& last = points.back();
        const Vec3 before{last[0].get<float>(), last[1].get<float>(), last[2].get<float>()};
        if (double(distance(before, at)) < brush.radius / 5) return;
    }
    points.push_back(
        {plain(double(at.x)), plain(double(at.y)), plain(double(at.z)), plain(double(normal.x)), plain(double(normal.y)), plain(double(normal.z))});
    document_.applyShown(setSetting(document_.shown(), node->id, "strokes", strokes, document_.assets()), handleGesture_);
}

/// While the stage shows an attribute, or one element is marked, the weave tells where that comes from. Geometry is compared behind the interface.
void MainWindow::showOrigins() {
    const StageLook look = stage_->tools()->look();
    const StageMarks& marks = stage_->marks();
    const std::string& shown = weave_->pinned().empty() ? weave_->chosen() : weave_->pinned();
    const int wish = ++originWish_;
    const bool byAttribute = look.shading == Shading::attribute && !look.attribute.empty();
    const bool byElement = !byAttribute && marks.edges.empty() && marks.rows.size() == 1 && (marks.element == Element::point || marks.element == Element::face);
    if (shown.empty() || (!byAttribute && !byElement)) return weave_->setOrigins({}, {});
    const Index row = byElement ? marks.rows.front() : 0;
    const QString what = byAttribute                     ? QString::fromStdString(look.attribute)
                       : marks.element == Element::point ? tr("point %1").arg(row)
                                                         : tr("face %1").arg(row);
    std::map<std::string, std::shared_ptr<const NodeOutcome>> outcomes;
    for (const Node& node : document_.shown().nodes) outcomes[node.id] = rebuilds_.outcome(node.id);
    origins_.clear();
    origins_.start([this, wish, what, byAttribute, element = marks.element, row, loom = document_.shownSnapshot(), shown, attribute = look.attribute,
                    outcomes = std::move(outcomes)]() -> Background::Then {
        const auto outcomeOf = [&](const std::string& id) {
            const auto it = outcomes.find(id);
            return it == outcomes.end() ? nullptr : it->second;
        };
        auto origins = byAttribute ? originsOf(*loom, shown, attribute, outcomeOf) : elementOriginsOf(*loom, shown, element, row, outcomeOf);
        return [this, wish, what, origins = std::move(origins)] {
            if (wish == originWish_) weave_->setOrigins(what, origins);
        };
    });
}

void MainWindow::peek(bool on) {
    if (peeking_ == on) return;
    peeking_ = on;
    showStage();
}

/// What the stage shows follows the rebuild at once; everything else waits for its end.
void MainWindow::showStage() {
    stage_->setGhost(surroundings());
    const std::string& pinned = weave_->pinned();
    const std::string shown = pinned.empty() ? weave_->chosen() : pinned;
    if (peeking_) {
        stage_->compare({});
        return stage_->show(inputOf(weave_->chosen()), tr("input: %1"));
    }
    if (compare_ || stage_->tools()->look().shading == Shading::difference) {
        const Compared both = compared();
        stage_->show(both.right.outcome ? both.right : subjectOf(weave_->chosen()));
        stage_->compare(both.left);
        weave_->setCompared(both.leftNode, both.rightNode);
        return;
    }
    stage_->compare({});
    weave_->setCompared({}, {});
    if (paintsDensity()) return stage_->show(subjectOf(shown, 1), tr("density of %1"));
    const auto open = pinned.empty() ? openInputOf(document_.shown(), shown, rebuilds_) : std::nullopt;
    if (open) stage_->show(subjectOf(open->from, open->output), tr("input that is not closed: %1"));
    else stage_->show(subjectOf(shown), pinned.empty() ? QString() : tr("pinned: %1"));
    if (open || showsOpenInput_) stage_->setMarks(open ? open->marks : StageMarks());
    showsOpenInput_ = open.has_value();
}

void MainWindow::showChosen() {
    showStage();
    stage_->setHandles(handlesOf(weave_->chosen()));
    showOrigins();
    if (data_->isVisible()) {
        const std::string node = data_->pinnedTo().empty() || !document_.shown().node(data_->pinnedTo()) ? weave_->chosen() : data_->pinnedTo();
        data_->show(nameOf(node), node, rebuilds_.outcome(node));
    }
    if (checkup_->isVisible()) checkup_->show(nameOf(weave_->chosen()), rebuilds_.outcome(weave_->chosen()));
    else checkupButton_->setText(tr("Checkup"));  // what was found of another node says nothing of this one
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress || event->type() == QEvent::KeyRelease) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Space && !(key->modifiers() & Qt::ControlModifier)) {
            if (!key->isAutoRepeat()) peek(event->type() == QEvent::KeyPress);
            return true;
        }
        if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress && watched == weave_ && document_.inside() && !stage_->brush()) {
            goOut();
            return true;
        }
        if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress && stage_->brush() && settings_->lines()) {
            settings_->lines()->setDrawing(false);
            return true;
        }
        if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress && stage_->brush() && settings_->strokes()) {
            settings_->strokes()->setPainting(false);
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut) peek(false);
    return QMainWindow::eventFilter(watched, event);
}

Bounds MainWindow::inputBounds(const std::string& node) const {
    const Stage::Subject input = inputOf(node);
    return input.outcome ? boundsOf(input.outcome->output(input.output)) : Bounds();
}

Stage::Handles MainWindow::handlesOf(const std::string& node) const {
    const Node* found = document_.shown().node(node);
    if (!found) return {};
    NodeHandles made = handlesFor(*found, inputBounds(node));
    return {std::move(made.at), std::move(made.along), std::move(made.name), std::move(made.lines), made.chain, made.closed};
}

void MainWindow::moveHandle(int index, Vec3 to, int phase) {
    if (phase == 0) handleGesture_ = document_.newGesture();
    if (phase == 2) document_.endGesture();
    if (phase != 1) return;
    const Node* node = document_.shown().node(weave_->chosen());
    if (!node) return;
    for (const auto& [setting, value] : movedHandle(*node, inputBounds(node->id), index, to))
        document_.applyShown(setSetting(document_.shown(), node->id, setting, value, document_.assets()), handleGesture_);
}

void MainWindow::insertHandle(int behind, Vec3 at) {
    const Node* node = document_.shown().node(weave_->chosen());
    const auto points = node ? withPoint(*node, behind, at) : std::nullopt;
    if (points) document_.applyShown(setSetting(document_.shown(), node->id, "points", *points, document_.assets()));
}

void MainWindow::removeHandle(int index) {
    const Node* node = document_.shown().node(weave_->chosen());
    const auto points = node ? withoutPoint(*node, index) : std::nullopt;
    if (points) document_.applyShown(setSetting(document_.shown(), node->id, "points", *points, document_.assets()));
}

/// A line grows with every place that the pen comes to; all of it is one step back.
void MainWindow::drawLine(Vec3 at, int phase) {
    if (phase == 0) handleGesture_ = document_.newGesture();
    if (phase == 2) return document_.endGesture();
    const Node* node = document_.shown().node(weave_->chosen());
    if (!node) return;
    Json lines = node->settings.contains("strokes") && node->settings["strokes"].is_array() ? node->settings["strokes"] : Json::array();
    const auto plain = [](float v) { return std::round(double(v) * 1e5) / 1e5; };
    const Json place{plain(at.x), plain(at.y), plain(at.z)};
    if (phase == 0) lines.push_back(Json::array());
    if (lines.empty()) return;
    Json& line = lines.back();
    if (!line.empty()) {
        const Vec3 before{line.back()[0].get<float>(), line.back()[1].get<float>(), line.back()[2].get<float>()};
        // Three pixels are as fine as a hand draws.
        if (double(distance(before, at)) < stage_->camera().metresPerPixel(stage_->size()) * 3) return;
    }
    line.push_back(place);
    document_.applyShown(setSetting(document_.shown(), node->id, "strokes", lines, document_.assets()), handleGesture_);
}

Json MainWindow::viewState() const {
    const Camera& c = stage_->camera();
    const auto plain = [](double v) { return std::round(v * 1e4) / 1e4; };
    Json out{{"camera",
              {{"yaw", plain(c.yaw)},
               {"pitch", plain(c.pitch)},
               {"distance", plain(c.distance)},
               {"target", {plain(double(c.target.x)), plain(double(c.target.y)), plain(double(c.target.z))}},
               {"flat", c.flat}}},
             {"chosen", document_.inside() ? document_.place().path.front() : weave_->chosen()},
             {"frames", {time_->first(), time_->last()}}};
    if (!weave_->pinned().empty() && !document_.inside()) out["pinned"] = weave_->pinned();
    return out;
}

/// Anything that does not fit is left as it is: a view is never a reason not to open a document.
void MainWindow::takeViewState(const Json& view) {
    if (!view.is_object()) return;
    const auto number = [](const Json& from, const char* key, double fallback) {
        const auto it = from.find(key);
        return it != from.end() && it->is_number() && std::isfinite(it->get<double>()) ? it->get<double>() : fallback;
    };
    if (const auto it = view.find("camera"); it != view.end() && it->is_object()) {
        Camera c = stage_->camera();
        c.yaw = number(*it, "yaw", c.yaw);
        c.pitch = std::clamp(number(*it, "pitch", c.pitch), -90.0, 90.0);
        c.distance = std::clamp(number(*it, "distance", c.distance), 1e-4, 1e6);
        c.flat = it->contains("flat") && (*it)["flat"] == Json(true);
        Numbers target;
        if (it->contains("target") && numbersOf((*it)["target"], target) && target.components == 3)
            c.target = {float(target.value[0]), float(target.value[1]), float(target.value[2])};
        stage_->setCamera(c);
    }
    const auto node = [&](const char* key) { return view.contains(key) && view[key].is_string() ? view[key].get<std::string>() : std::string(); };
    if (document_.shown().node(node("chosen"))) weave_->choose(node("chosen"));
    if (document_.shown().node(node("pinned"))) weave_->pin(node("pinned"));
    Numbers frames;
    if (view.contains("frames") && numbersOf(view["frames"], frames) && frames.components == 2 && std::abs(frames.value[0]) < 1e6 &&
        std::abs(frames.value[1]) < 1e6)
        time_->setRange(int(frames.value[0]), int(frames.value[1]));
}

void MainWindow::showNotices() {
    notices_->clear();
    int shown = 0;
    for (const Notice& notice : rebuilds_.notices()) {
        const Node* of = document_.loom().node(notice.node);
        const QString level = notice.level == NoticeLevel::error ? tr("Error") : notice.level == NoticeLevel::warning ? tr("Warning") : tr("Note");
        auto* item = new QListWidgetItem(
            QStringLiteral("%1  ·  %2  ·  %3").arg(level, of ? QString::fromStdString(displayName(*of)) : QString(), QString::fromStdString(notice.text)),
            notices_);
        item->setData(Qt::UserRole, QString::fromStdString(notice.node));
        item->setForeground(notice.level == NoticeLevel::error ? colours().chosen : notice.level == NoticeLevel::warning ? colours().warning : colours().ink);
        ++shown;
    }
    if (shown == 0) {
        auto* item = new QListWidgetItem(tr("Nothing to report: every node is fine."), notices_);
        item->setFlags(Qt::NoItemFlags);
    }
    noticesButton_->setText(shown > 0 ? tr("Notices · %1").arg(shown) : tr("Notices"));
}

}  // namespace seedloom::app
