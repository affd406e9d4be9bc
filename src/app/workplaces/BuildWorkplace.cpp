#include "app/workplaces/BuildWorkplace.h"

#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/stage/StageTools.h"
#include "app/weave/Trail.h"
#include "app/weave/Weave.h"
#include "app/widgets/LinesField.h"
#include "app/workplaces/HandleGesture.h"
#include "app/workplaces/NodeHandles.h"
#include "app/workplaces/OpenInput.h"
#include "app/workplaces/StrokeGestures.h"
#include "breaking/FaceKind.h"
#include "graph/Controls.h"
#include "graph/Fixes.h"
#include "graph/InnerEdits.h"
#include "graph/LoomNotices.h"
#include "graph/Profile.h"
#include "operators/flow/Containers.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>

#include <set>

namespace seedloom::app {

namespace {

/// Where a drawn curve lies; what comes from a source counts as not said.
std::string planeOf(const Node& node) {
    const auto it = node.settings.find("plane");
    return it != node.settings.end() && it->is_string() ? it->get<std::string>() : "auto";
}

}  // namespace

BuildWorkplace::BuildWorkplace(Session& session, QObject* parent)
    : Workplace(session, parent), document_(session.document()), rebuilds_(session.rebuilds()), pictures_(session.pictures()), selection_(session.selection()) {
}

BuildWorkplace::~BuildWorkplace() = default;

void BuildWorkplace::enter() {
    offerCommands(true);
    showChosen();
}

void BuildWorkplace::leave() {
    peek(false);
    offerCommands(false);
}

/// What follows from the session, for as long as there are panels; they follow first.
void BuildWorkplace::connectSession() {
    connect(&document_, &Document::changed, across_, [this] {
        stage_->setHandles(handlesOf(weave_->chosen()));
        showFrames();
    });
    connect(&document_, &Document::placeChanged, across_, [this] { placeChanged(); });
    connect(&document_, &Document::replaced, across_, [this] {
        compare_ = false;
        if (!hasFirstSteps()) firstSteps_->hide();
        stage_->frameNext();
        selection_.setMarks({});
        time_->setFrame(0);
    });
    connect(&selection_, &Selection::chosenChanged, across_, [this] {
        settings_->setNodes(weave_->chosenAll());
        showChosen();
        showFrames();
        showGhosts();
    });
    connect(&selection_, &Selection::pinnedChanged, across_, [this] { showChosen(); });
    connect(&selection_, &Selection::marksChanged, across_, [this] { showOrigins(); });
    connect(&rebuilds_, &RebuildService::stateChanged, across_, [this] {
        time_->setReady(!rebuilds_.running());
        showStage();
    });
    connect(&rebuilds_, &RebuildService::finished, across_, [this] {
        showChosen();
        stage_->endFraming();
        showNotices();
        const Node* step = frameStep();
        time_->setKept(rebuilds_.keptFrames(step ? step->id : std::string()));
        keepRest();
        showGhosts();
    });
    connect(&ghosts_, &GhostFrames::ready, across_, [this] { showStage(); });
}

/// All that is connected to panels, made again with them.
void BuildWorkplace::connectPanels() {
    connect(weave_, &Weave::settingsWanted, settings_, &SettingsPanel::focusFirst);
    connect(weave_, &Weave::placed, this, &BuildWorkplace::beginProfile);
    connect(weave_, &Weave::menuWanted, this, &BuildWorkplace::fillContextMenu);
    connect(stage_, &Stage::handleMoved, this, &BuildWorkplace::gestureOnHandle);
    connect(stage_, &Stage::handleInsertWanted, this, &BuildWorkplace::insertHandle);
    connect(stage_, &Stage::handleAppendWanted, this, &BuildWorkplace::appendHandle);
    connect(stage_, &Stage::handleRemoveWanted, this, &BuildWorkplace::removeHandle);
    connect(settings_, &SettingsPanel::brushChanged, this, [this] {
        const StrokesField* strokes = settings_->strokes();
        const Node* node = document_.shown().node(weave_->chosen());
        // Whoever begins to paint wants to see the mask.
        if (node && strokes && strokes->painting() && !stage_->brush() && node->op != "hand_shape")
            stage_->setAttribute(node->op == "scatter" ? QStringLiteral("density") : QString::fromStdString(node->settings.value("name", std::string("mask"))));
        if (const auto pen = penOf(node); pen && !stage_->brush()) faceThePlane(pen->plane);
        node = document_.shown().node(weave_->chosen());
        stage_->setBrush(strokes && strokes->painting() ? std::optional(strokes->brush()) : penOf(node));
        showStage();  // what is drawn on is shown while it is drawn on
    });
    // Behind the click: what it changes may take the button away.
    connect(
        settings_, &SettingsPanel::fixWanted, this, [this](const NoticeFix& fix) { useFix(fix, weave_->chosen()); }, Qt::QueuedConnection);
    connect(settings_, &SettingsPanel::lineChosen, this, &BuildWorkplace::showChosenLine);
    connect(stage_, &Stage::brushResized, this, [this](double radius) {
        if (StrokesField* strokes = settings_->strokes()) strokes->setRadius(radius);
    });
    connect(stage_, &Stage::painted, this, &BuildWorkplace::gestureOnModel);
    connect(stage_, &Stage::directionSettled, &pictures_, &Pictures::setDirection);
    connect(stage_, &Stage::compareWanted, this, &BuildWorkplace::toggleCompare);
    // Menu and buttons say the same.
    connect(stage_->tools(), &StageTools::overlayChanged, this, [this](const QString& id, bool on) { host_->action(id)->setChecked(on); });
    connect(stage_, &Stage::picked, this, [this](bool hit, Element element, Index row, bool extend) {
        if (!hit) return extend ? void() : stage_->setMarks({});
        ElementMarks marks = stage_->marks();
        if (!extend || marks.element != element || !marks.edges.empty()) marks = {element, {}, {}};
        if (std::erase(marks.rows, row) == 0) marks.rows.push_back(row);
        stage_->setMarks(marks);
        if (data_->isVisible()) data_->chooseRow(element, row, extend);
    });
    connect(stage_, &Stage::kindWanted, this, &BuildWorkplace::markKind);
    connect(data_, &DataDrawer::kindWanted, this, &BuildWorkplace::markKind);
    connect(data_, &DataDrawer::rowsChosen, this, [this](Element element, const std::vector<Index>& rows) { stage_->setMarks({element, rows, {}}); });
    connect(data_, &DataDrawer::columnChosen, stage_, &Stage::setAttribute);
    connect(stage_->tools(), &StageTools::lookChanged, this, [this] {
        showOrigins();
        showStage();  // differences need what the node is compared with
    });
    connect(data_, &DataDrawer::pinChanged, this, &BuildWorkplace::showChosen);
    connect(checkup_, &CheckupDrawer::showWanted, this, [this](const Finding& finding) {
        selection_.pin({});
        stage_->setMarks({finding.element, finding.rows, finding.edges});
        stage_->frameMarks();
    });
    connect(checkup_, &CheckupDrawer::fixWanted, this, [this](const NoticeFix& fix) { useFix(fix, weave_->chosen()); });
    connect(checkup_, &CheckupDrawer::verdictChanged, this,
            [this](const QString& verdict, bool) { checkupButton_->setText(verdict.isEmpty() ? tr("Checkup") : tr("Checkup · %1").arg(verdict)); });
    connect(time_, &TimeDrawer::rested, this, [this] { session_.frameRests(); });
    connect(time_, &TimeDrawer::rangeChanged, this, [this] {
        session_.setLastFrame(time_->last());
        showGhosts();
    });
    connect(time_, &TimeDrawer::ghostsChanged, this, &BuildWorkplace::showGhosts);
    connect(time_, &TimeDrawer::keepWanted, this, &BuildWorkplace::keepFrame);
    connect(time_, &TimeDrawer::restWanted, this, &BuildWorkplace::seekRest);
    session_.setLastFrame(time_->last());
    connect(settings_, &SettingsPanel::controlWanted, this, [this](const QString& node, const Control& proposed, const QString& setting) {
        controls_->askForNew(node.toStdString(), setting.toStdString(), proposed);
    });
    connect(settings_, &SettingsPanel::controlDropped, this, [this](const QString& id) { document_.apply(removeControl(document_.loom(), id.toStdString())); });
    // Behind what made it: only then it has its size.
    connect(controls_, &ControlsPanel::roomWanted, this, &BuildWorkplace::growControls, Qt::QueuedConnection);
    connect(controls_, &ControlsPanel::placeWanted, this, [this](const ControlReading& reading) {
        document_.leave(document_.place().path.size());
        for (const std::string& container : reading.path) document_.enter(container);
        weave_->choose(reading.node);
        if (SettingRow* row = settings_->row(reading.setting)) settings_->ensureWidgetVisible(row);
    });
    connect(controls_, &ControlsPanel::settingDropped, this, [this](const QString& node, const QString& setting) {
        const SettingRow* row = settings_->row(setting.toStdString());
        if (row && row->canBecomeControl()) return controls_->askForNew(node.toStdString(), setting.toStdString(), row->proposedControl());
        Q_EMIT messageWanted(tr("Only a fixed number, choice or text can become a control. Set the source of this one to Fixed first."));
    });
    connect(notices_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        const std::string node = item->data(Qt::UserRole).toString().toStdString();
        // Notices are those of the document's own nodes; what went wrong inside is told by the container.
        document_.leave(document_.place().path.size());
        if (!node.empty()) weave_->choose(node);
    });
    connect(weave_, &Weave::openWanted, this, &BuildWorkplace::openChosen);
    connect(trail_, &Trail::surroundingsChanged, this, &BuildWorkplace::showStage);
    weave_->installEventFilter(this);
    stage_->installEventFilter(this);
}

/// Another graph or part: the panels speak of its nodes, and the rebuild reports them; most of it is in the memo.
void BuildWorkplace::placeChanged() {
    settings_->setNodes({});
    settings_->setNodes(weave_->chosenAll());
    stage_->setMarks({});
    showChosen();
}

/// The finished container around what is looked at.
Stage::Subject BuildWorkplace::surroundings() const {
    if (paintsDensity()) return subjectOf(weave_->chosen());
    if (drawsOnSurface(document_.shown().node(weave_->chosen())) || (stage_->brush() && stage_->brush()->plane == Brush::kView))
        return inputOf(weave_->chosen());
    if (!document_.inside() || !trail_->surroundings()) return {};
    std::string full;
    for (const std::string& id : document_.place().path) full += (full.empty() ? "" : "/") + id;
    return {{}, rebuilds_.outcomeOf(full)};
}

bool BuildWorkplace::paintsDensity() const {
    const Node* node = document_.shown().node(weave_->chosen());
    return stage_->brush() && node && node->op == "scatter" && selection_.pinned().empty();
}

/// The pen, while a drawn curve or a plane is drawn.
std::optional<Brush> BuildWorkplace::penOf(const Node* node) const {
    if (const QToolButton* plane = settings_->planeButton(); node && plane && plane->isChecked()) {
        Brush pen;
        pen.pen = true;
        pen.plane = Brush::kView;
        return pen;
    }
    const LinesField* lines = settings_->lines();
    if (!node || !lines || !lines->drawing()) return {};
    Brush pen;
    pen.pen = true;
    const std::string plane = planeOf(*node);
    pen.plane = drawsOnSurface(node) ? Brush::kSurface : plane == "side" ? 0 : plane == "front" ? 2 : 1;
    return pen;
}

/// A plane that is seen from its edge can't be drawn on: the first line lies in the plane that is seen, for others the view turns to where theirs is.
void BuildWorkplace::faceThePlane(int plane) {
    constexpr float kEdge = 0.1f;
    if (plane < 0 || std::abs(stage_->camera().toEye()[plane]) > kEdge) return;
    const Node* node = document_.shown().node(weave_->chosen());
    const auto seen = stage_->camera().across();
    const bool first = node && planeOf(*node) == "auto" && node->settings.value("strokes", Json::array()).empty();
    if (!seen || !first) return stage_->lookFrom(plane * 2);
    constexpr std::array<const char*, 3> kPlanes{"side", "ground", "front"};
    document_.applyShown(setSetting(document_.shown(), node->id, "plane", kPlanes[std::size_t(*seen)], document_.assets()));
}

/// Lines that lie on what is plugged in; it is seen behind them, whether they are drawn just now or not.
bool BuildWorkplace::drawsOnSurface(const Node* node) const {
    if (!node || node->op != "drawn_curve") return false;
    const std::string plane = planeOf(*node);
    return plane == "surface" || (plane == "auto" && inputOf(node->id).outcome);
}

void BuildWorkplace::openChosen() {
    const Node* node = document_.shown().node(weave_->chosen());
    if (node && node->op == kAsset) return openAsset(*node);
    if (!node || !node->graph) return messageWanted(tr("Only containers can be opened: Each piece, Repeat, Time step, Nest and Asset."));
    document_.enter(node->id);
    weave_->setFocus();
}

/// An asset is edited as what it is, a document of its own; here it follows once that is saved.
void BuildWorkplace::openAsset(const Node& node) {
    if (!insideOf(node, document_.assets())) return messageWanted(tr("There is no loom to open. Choose the asset's file in the settings."));
    const std::filesystem::path file = document_.file().parent_path() / assetFileOf(node.settings);
    Q_EMIT documentWanted(QString::fromStdString(file.string()));
}

void BuildWorkplace::goOut() {
    if (!document_.inside()) return;
    document_.leave();
    weave_->setFocus();
}

void BuildWorkplace::foldChosen() {
    if (const auto problem = foldProblem(document_.shown(), weave_->chosenAll())) return messageWanted(QString::fromStdString(problem->text));
    std::string id;
    document_.applyShown(foldIntoNest(document_.shown(), weave_->chosenAll(), &id));
    weave_->choose(id);
}

void BuildWorkplace::unfoldChosen() {
    if (const auto problem = unfoldProblem(document_.shown(), weave_->chosen())) return messageWanted(QString::fromStdString(problem->text));
    std::vector<std::string> ids;
    document_.applyShown(unfoldNest(document_.shown(), weave_->chosen(), &ids));
    if (!ids.empty()) weave_->chooseAll(std::move(ids));
}

QString BuildWorkplace::nameOf(const std::string& id) const {
    const Node* node = document_.shown().node(id);
    return node ? QString::fromStdString(displayName(*node)) : QString();
}

Stage::Subject BuildWorkplace::subjectOf(const std::string& node, std::size_t output) const { return {nameOf(node), rebuilds_.outcome(node), output}; }

Stage::Subject BuildWorkplace::inputOf(const std::string& id) const {
    for (const Link& link : document_.shown().links)
        if (link.to == id) return subjectOf(link.from, outputOf(document_.shown(), link));
    return {};
}

/// While a node has no result yet, the nearest one up the strand that has: a long rebuild is seen to grow. Nothing where the node has one, or none is under
/// way.
Stage::Subject BuildWorkplace::finishedBefore(const std::string& id) const {
    if (!rebuilds_.running() || rebuilds_.outcome(id)) return {};
    std::set<std::string> seen;
    std::vector<std::string> level{id};
    while (!level.empty()) {
        std::vector<std::string> next;
        for (const std::string& node : level)
            for (const Link& link : document_.shown().links) {
                if (link.to != node || !seen.insert(link.from).second) continue;
                const Stage::Subject found = subjectOf(link.from, outputOf(document_.shown(), link));
                if (found.outcome) return found;
                next.push_back(link.from);
            }
        level = std::move(next);
    }
    return {};
}

BuildWorkplace::Compared BuildWorkplace::compared() const {
    const auto& chosen = weave_->chosenAll();
    const std::string &pinned = selection_.pinned(), &last = weave_->chosen();
    if (chosen.size() == 2) return {chosen[0], chosen[1], subjectOf(chosen[0]), subjectOf(chosen[1])};
    if (!pinned.empty() && pinned != last) return {pinned, last, subjectOf(pinned), subjectOf(last)};
    for (const Link& link : document_.shown().links)
        if (link.to == last) return {link.from, last, inputOf(last), subjectOf(last)};
    return {};
}

void BuildWorkplace::markKind() {
    const ElementMarks& marks = stage_->marks();
    if (marks.element != Element::face || marks.rows.empty() || !stage_->mesh()) return;
    const Geometry& shown = stage_->mesh()->geometry;
    if (marks.rows.back() >= shown.faceCount()) return;
    const FaceKind kind = faceKind(shown, marks.rows.back());
    stage_->setMarks({Element::face, facesOfKind(shown, kind), {}});
    if (data_->isVisible()) data_->setFilter(QString::fromStdString(formulaOfKind(shown, kind)));
}

void BuildWorkplace::toggleCompare(bool on) {
    compare_ = on && !compared().leftNode.empty();
    if (on && !compare_) Q_EMIT messageWanted(tr("There is nothing before this node to compare it with. Choose another one, or two."));
    showChosen();
}

/// While the stage shows an attribute, or one element is marked, the weave tells where that comes from. Geometry is compared behind the interface.
void BuildWorkplace::showOrigins() {
    const SceneLook look = stage_->tools()->look();
    const ElementMarks& marks = stage_->marks();
    const std::string& shown = selection_.pinned().empty() ? weave_->chosen() : selection_.pinned();
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

void BuildWorkplace::peek(bool on) {
    if (peeking_ == on) return;
    peeking_ = on;
    showStage();
}

/// What the stage shows follows the rebuild at once; everything else waits for its end.
void BuildWorkplace::showStage() {
    const Stage::Subject around = surroundings();
    stage_->setGhost(around.outcome ? around : Stage::Subject{{}, ghosts_.outcome()});
    const std::string& pinned = selection_.pinned();
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
    const Stage::Subject sofar = finishedBefore(shown);
    stage_->setInvitation(rebuilds_.running() ? tr("Rebuilding …") : tr("Nothing to show yet.\nPress / and say what you want to make."));
    if (sofar.outcome) return stage_->show(sofar, tr("so far: %1"));
    const auto open = pinned.empty() ? openInputOf(document_.shown(), shown, rebuilds_) : std::nullopt;
    if (open) stage_->show(subjectOf(open->from, open->output), tr("input that is not closed: %1"));
    else stage_->show(subjectOf(shown), pinned.empty() ? QString() : tr("pinned: %1"));
    if (open || showsOpenInput_) stage_->setMarks(open ? open->marks : ElementMarks());
    showsOpenInput_ = open.has_value();
}

void BuildWorkplace::showChosen() {
    showStage();
    stage_->setHandles(handlesOf(weave_->chosen()));
    showOrigins();
    // Asked by name: in a window whose panels are just built anew nothing is visible yet.
    if (shownDrawer() == QLatin1String("data")) {
        const std::string node = data_->pinnedTo().empty() || !document_.shown().node(data_->pinnedTo()) ? weave_->chosen() : data_->pinnedTo();
        data_->show(nameOf(node), node, rebuilds_.outcome(node));
    }
    if (shownDrawer() == QLatin1String("checkup")) checkup_->show(nameOf(weave_->chosen()), rebuilds_.outcome(weave_->chosen()));
    else checkupButton_->setText(tr("Checkup"));  // what was found of another node says nothing of this one
}

bool BuildWorkplace::eventFilter(QObject* watched, QEvent* event) {
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
        if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress && stage_->brush() && settings_->planeButton()) {
            settings_->planeButton()->setChecked(false);
            return true;
        }
        if (key->key() == Qt::Key_Escape && event->type() == QEvent::KeyPress && stage_->brush() && settings_->strokes()) {
            settings_->strokes()->setPainting(false);
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut) peek(false);
    return QObject::eventFilter(watched, event);
}

/// A new profile is seen from the front of its plane, and drawn at once.
void BuildWorkplace::beginProfile(const std::string& id) {
    const auto plane = profilePlane(document_.shown(), id);
    if (!plane) return;
    selection_.pin({});
    StageCamera camera = stage_->camera();
    // Beside the axis, unless something is in sight that it belongs to.
    if (!stage_->mesh() || stage_->mesh()->bounds.empty) camera = StageCamera();
    stage_->setCamera(camera);
    stage_->lookFrom(plane->across * 2);
    if (settings_->lines()) settings_->lines()->setDrawing(true);
}

}  // namespace seedloom::app
