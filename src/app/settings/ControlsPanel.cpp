#include "app/settings/ControlsPanel.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlRow.h"
#include "app/settings/PresetBar.h"
#include "app/widgets/DragName.h"
#include "app/widgets/SwapPage.h"
#include "graph/Controls.h"

#include <QtCore/QMimeData>
#include <QtGui/QDragEnterEvent>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

/// The control's own default, which may be a formula.
Json resetOf(const Loom& loom, const std::string& id) {
    const Control* found = loom.control(id);
    return found ? found->fallback : Json();
}

}  // namespace

ControlsPanel::ControlsPanel(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), presets_(new PresetBar(document, this)), asUsed_(new QToolButton(this)), area_(new QScrollArea(this)),
      mark_(new QWidget(this)), problem_(new QLabel(this)) {
    setAccessibleName(tr("Controls"));
    setAccessibleDescription(tr("The values by which the loom is adjusted. Drop the name of a setting here to make a control of it."));
    setAcceptDrops(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(16, 12, 12, 4);
    auto* title = new QLabel(tr("Controls"), this);
    title->setProperty("role", "title");
    head->addWidget(title, 0, Qt::AlignTop);
    head->addSpacing(px(10));
    head->addWidget(presets_, 1);
    asUsed_->setIcon(icon(QStringLiteral("seen")));
    asUsed_->setCheckable(true);
    asUsed_->setToolTip(tr("Shows the controls as whoever uses the loom sees them"));
    asUsed_->setAccessibleName(tr("As used"));
    connect(asUsed_, &QToolButton::toggled, this, &ControlsPanel::build);
    head->addWidget(asUsed_, 0, Qt::AlignTop);
    column->addLayout(head);
    problem_->setWordWrap(true);
    problem_->setProperty("role", "warning");
    problem_->setContentsMargins(16, 2, 12, 2);
    problem_->setAccessibleName(tr("What is wrong with the controls"));
    problem_->hide();
    column->addWidget(problem_);
    area_->setWidgetResizable(true);
    area_->setAccessibleName(tr("Values"));
    area_->setAccessibleDescription(tr("A line for each control: its name, and the fields that set it"));
    area_->setFrameShape(QFrame::NoFrame);
    area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(area_, 1);
    mark_->setAttribute(Qt::WA_TransparentForMouseEvents);
    mark_->setStyleSheet(QStringLiteral("background: %1;").arg(colours().chosen.name()));
    mark_->hide();
    connect(&document_, &Document::changed, this, &ControlsPanel::refresh);
    connect(presets_, &PresetBar::comparedChanged, this, &ControlsPanel::refresh);
    build();
}

Slider* ControlsPanel::slider(const std::string& control) const {
    const auto it = lines_.find(control);
    return it == lines_.end() ? nullptr : it->second.row->slider();
}

NumberField* ControlsPanel::field(const std::string& control) const {
    const auto it = lines_.find(control);
    return it == lines_.end() ? nullptr : it->second.row->field();
}

QWidget* ControlsPanel::line(const std::string& control) const {
    const auto it = lines_.find(control);
    return it == lines_.end() || it->second.widget->isHidden() ? nullptr : it->second.widget;
}

DragName* ControlsPanel::name(const std::string& control) const {
    const auto it = lines_.find(control);
    return it == lines_.end() ? nullptr : it->second.name;
}

void ControlsPanel::setAsUsed(bool on) { asUsed_->setChecked(on); }

bool ControlsPanel::asUsed() const { return asUsed_->isChecked(); }

int ControlsPanel::wantedHeight() const { return area_->y() + (area_->widget() ? area_->widget()->sizeHint().height() : 0); }

std::string ControlsPanel::shape() const {
    Json out = Json::array();
    for (const Control& c : document_.loom().controls)
        out.push_back({c.id, c.label, c.unit, c.help, c.type, c.section, c.min.value_or(0), c.max.value_or(0), c.low.value_or(0), c.high.value_or(0),
                       c.step.value_or(0), c.choices, c.pictures, c.shownWhen, c.allowedWhen});
    return out.dump();
}

ControlValues ControlsPanel::values() const {
    if (auto values = controlValues(document_.loom())) return std::move(*values);
    ControlValues out;
    for (const Control& control : document_.loom().controls) {
        const Json inUse = document_.loom().valueInUse(control.id);
        out[control.id] = inUse.is_null() ? control.fallback : inUse;
    }
    return out;
}

void ControlsPanel::put(const std::string& control, const Json& value, bool gesture) {
    document_.apply(setControlValue(document_.loom(), control, allowedValue(document_.loom(), control, value)), gesture ? gesture_ : 0);
    refresh();  // a value that was held back is shown as it is
}

void ControlsPanel::refresh() {
    if (shape() != built_) return build();
    const auto all = controlValues(document_.loom());
    problem_->setText(all ? QString() : QString::fromStdString(all.error().text));
    problem_->setVisible(!all);
    const ControlValues now = values();
    for (const auto& [id, line] : lines_)
        if (const auto it = now.find(id); it != now.end()) line.row->show(it->second);
    refreshNames(now);
}

const LoomNotice* ControlsPanel::noticeOf(const std::string& control) const {
    const auto it = std::find_if(notices_.begin(), notices_.end(), [&](const LoomNotice& n) { return n.control == control; });
    return it == notices_.end() ? nullptr : &*it;
}

/// Bold is what is not the default, a dot what differs from the preset; faint is what those who use the loom don't see now; struck through what is of no
/// use as it is.
void ControlsPanel::refreshNames(const ControlValues& now) {
    const Loom& loom = document_.loom();
    const Preset* preset = presets_->compared();
    notices_ = asUsed() ? std::vector<LoomNotice>() : loomNotices(loom, document_.assets());
    for (const Control& control : loom.controls) {
        const auto it = lines_.find(control.id);
        if (it == lines_.end()) continue;
        const bool seen = controlShown(control, now);
        it->second.widget->setVisible(seen || !asUsed());
        DragName* name = it->second.name;
        bool differs = false;
        if (preset) {
            const auto kept = preset->values.find(control.id);
            const Json inUse = loom.valueInUse(control.id);
            differs = kept == preset->values.end() || kept->second == control.fallback ? !inUse.is_null() : inUse != kept->second;
        }
        name->setText(QString::fromStdString(control.label) + (differs ? QStringLiteral(" •") : QString()));
        QFont font = bodyFont(12, loom.values.contains(control.id) ? QFont::DemiBold : QFont::Normal);
        font.setStrikeOut(noticeOf(control.id) != nullptr);
        name->setFont(font);
        name->setStyleSheet(seen ? QString() : QStringLiteral("color: %1;").arg(colours().faint.name()));
        name->setToolTip(helpOf(control, now));
    }
}

QString ControlsPanel::helpOf(const Control& control, const ControlValues& now) const {
    QStringList lines{QString::fromStdString(control.help).toHtmlEscaped()};
    const auto say = [&](const QString& text) { lines << text.toHtmlEscaped(); };
    if (const Preset* preset = presets_->compared()) {
        const auto kept = preset->values.find(control.id);
        if (kept != preset->values.end())
            say(shownNumbers(tr("%1 has %2.").arg(QString::fromStdString(preset->name), QString::fromStdString(kept->second.dump()))));
    }
    if (const LoomNotice* notice = noticeOf(control.id)) say(QString::fromStdString(notice->text));
    if (!control.allowedWhen.empty()) say(tr("Allowed when %1").arg(QString::fromStdString(control.allowedWhen)));
    if (!controlShown(control, now)) say(tr("Not seen now by those who use the loom: shown when %1").arg(QString::fromStdString(control.shownWhen)));
    say(asUsed() ? tr("Click the name to go back to the default.")
                 : tr("Click the name to go back to the default. Drag it onto a setting to drive that one, too, or up and down to order; right click to "
                      "change it."));
    lines.removeAll(QString());
    return QStringLiteral("<p>%1</p>").arg(lines.join(QStringLiteral("</p><p>")));
}

void ControlsPanel::build() {
    lines_.clear();
    form_ = nullptr;
    built_ = shape();
    const Loom& loom = document_.loom();
    if (loom.controls.size() > std::exchange(shown_, loom.controls.size())) Q_EMIT roomWanted();
    asUsed_->setVisible(!loom.controls.empty());
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(16, 4, 12, 12);
    column->setSpacing(6);
    if (loom.controls.empty()) {
        auto* hint = new QLabel(tr("No controls yet. Drag the name of a setting here to make a control of it."), page);
        hint->setWordWrap(true);
        hint->setProperty("role", "faint");
        column->addWidget(hint);
    }
    const ControlValues now = values();
    std::string section;
    for (const Control& control : loom.controls) {
        if (asUsed() && !controlShown(control, now)) {
            addRow(control, page, column);
            continue;  // a heading comes with the first that is seen
        }
        if (control.section != section) {
            section = control.section;
            auto* label = new QLabel(QString::fromStdString(section).toUpper(), page);
            label->setProperty("role", "section");
            column->addWidget(label);
        }
        addRow(control, page, column);
    }
    column->addStretch();
    swapPage(area_, page);
    refresh();
}

void ControlsPanel::addRow(const Control& control, QWidget* page, QVBoxLayout* column) {
    auto* widget = new QWidget(page);
    auto* line = new QHBoxLayout(widget);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    auto* name = new DragName(QString::fromStdString(control.label), kControlMime, QByteArray::fromStdString(control.id), widget);
    name->setFixedWidth(px(86));
    name->setWordWrap(true);
    connect(name, &DragName::clicked, this, [this, id = control.id] { put(id, resetOf(document_.loom(), id), false); });
    connect(name, &DragName::menuWanted, this, [this, id = control.id](QPoint at) { openMenu(id, at); });
    line->addWidget(name);
    auto* row = new ControlRow(control, QString::fromStdString(document_.file().parent_path().string()), widget);
    connect(row, &ControlRow::edited, this, [this, id = control.id](const Json& value, bool gesture) { put(id, value, gesture); });
    connect(row, &ControlRow::dragStarted, this, [this] { gesture_ = document_.newGesture(); });
    connect(row, &ControlRow::dragEnded, this, [this] {
        gesture_ = 0;
        document_.endGesture();
    });
    line->addWidget(row, 1);
    column->addWidget(widget);
    lines_[control.id] = {widget, name, row};
}

void ControlsPanel::openMenu(const std::string& id, QPoint global) {
    const Loom& loom = document_.loom();
    std::size_t at = 0;
    while (at < loom.controls.size() && loom.controls[at].id != id) ++at;
    if (at == loom.controls.size()) return;
    auto* menu = new QMenu(window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto back = [this, id] { put(id, resetOf(document_.loom(), id), false); };
    if (asUsed()) {
        menu->addAction(tr("Back to the default"), this, back);
        return menu->popup(global);
    }
    if (const LoomNotice* notice = noticeOf(id))
        for (const LoomFix& fix : notice->fixes) menu->addAction(QString::fromStdString(fix.label), this, [this, edit = fix.edit] { document_.apply(edit); });
    if (!menu->isEmpty()) menu->addSeparator();
    menu->addAction(tr("Change …"), this, [this, id] { askForChange(id); });
    const auto move = [&](const QString& text, std::size_t to, bool possible) {
        // It goes where its neighbour is, into that one's section.
        const std::string section = possible ? loom.controls[to].section : std::string();
        menu->addAction(text, this, [this, id, to, section] { document_.apply(moveControl(document_.loom(), id, to, section)); })->setEnabled(possible);
    };
    move(tr("Move up"), at - 1, at > 0);
    move(tr("Move down"), at + 1, at + 1 < loom.controls.size());
    menu->addAction(tr("Back to the default"), this, back);
    menu->addAction(tr("Make this value the default"), this,
                    [this, id] {
                        Control control = *document_.loom().control(id);
                        control.fallback = values().at(id);
                        document_.apply(changeControl(document_.loom(), control));
                    })
        ->setEnabled(loom.values.contains(id));
    const auto readings = controlReadings(loom);
    const auto places = readings.find(id);
    QMenu* drives = menu->addMenu(tr("Go to what it drives"));
    drives->setEnabled(places != readings.end());
    if (places != readings.end())
        for (const ControlReading& reading : places->second)
            drives->addAction(QStringLiteral("%1 · %2").arg(QString::fromStdString(reading.node), QString::fromStdString(reading.setting)), this,
                              [this, reading] { Q_EMIT placeWanted(reading); });
    menu->addSeparator();
    menu->addAction(tr("Remove; settings keep the value"), this, [this, id] { document_.apply(removeControl(document_.loom(), id)); });
    menu->popup(global);
}

void ControlsPanel::endForm() {
    if (!form_) return;
    form_->hide();
    form_->deleteLater();
    form_ = nullptr;
}

void ControlsPanel::ask(const Control& control, const std::string& id, const QString& button, std::function<void(const Control&)> take) {
    endForm();
    const Loom& loom = document_.loom();
    ControlForm::Around around;
    for (const Control& c : loom.controls) {
        around.sections << QString::fromStdString(c.section);
        around.controls << QStringLiteral("ctl.") + QString::fromStdString(c.id);
    }
    around.sections.removeDuplicates();
    around.folder = QString::fromStdString(document_.file().parent_path().string());
    if (!id.empty()) {
        around.readings = controlReadings(loom)[id];
        around.readers = controlsReading(loom, id);
    }
    around.problem = [this, id](const Control& filled) { return controlProblem(document_.loom(), id, filled); };
    form_ = new ControlForm(control, std::move(around), button, area_->widget());
    static_cast<QVBoxLayout*>(area_->widget()->layout())->insertWidget(0, form_);
    connect(form_, &ControlForm::placeWanted, this, &ControlsPanel::placeWanted);
    connect(form_, &ControlForm::done, this, [this, take = std::move(take)](bool taken) {
        const Control made = form_->control();
        endForm();
        if (taken) take(made);
    });
    form_->show();
    form_->name()->setFocus();
    area_->verticalScrollBar()->setValue(0);
    Q_EMIT roomWanted();
}

void ControlsPanel::askForNew(const std::string& node, const std::string& setting, const Control& proposed) {
    ask(proposed, {}, tr("Make control"),
        [this, node, setting](const Control& made) { document_.apply(makeControl(document_.loom(), document_.place().path, node, setting, made)); });
}

void ControlsPanel::askForChange(const std::string& id) {
    const Control* control = document_.loom().control(id);
    if (control) ask(*control, id, tr("Change"), [this, id](const Control& changed) { document_.apply(editControl(document_.loom(), id, changed)); });
}

QPoint ControlsPanel::namePixel(const std::string& control) const {
    const auto it = lines_.find(control);
    return it == lines_.end() ? QPoint() : it->second.name->mapTo(this, QPoint(6, it->second.name->height() / 2));
}

std::size_t ControlsPanel::placeAt(int y) const {
    const auto& controls = document_.loom().controls;
    std::size_t place = 0;
    for (const Control& control : controls) {
        const auto it = lines_.find(control.id);
        if (it == lines_.end() || it->second.widget->isHidden()) continue;
        const QWidget* line = it->second.widget;
        if (line->mapTo(this, QPoint(0, line->height() / 2)).y() > y) break;
        ++place;
    }
    return place;
}

void ControlsPanel::dragEnterEvent(QDragEnterEvent* event) {
    const bool control = document_.loom().control(draggedControl(event->mimeData())) && !asUsed();
    if (control || !draggedSetting(event->mimeData()).second.empty()) event->acceptProposedAction();
}

void ControlsPanel::dragMoveEvent(QDragMoveEvent* event) {
    event->acceptProposedAction();
    if (draggedControl(event->mimeData()).empty()) return;
    const auto& controls = document_.loom().controls;
    const std::size_t place = placeAt(int(event->position().y()));
    const bool end = place >= controls.size();
    const QWidget* line = lines_.at(controls[end ? controls.size() - 1 : place].id).widget;
    mark_->setGeometry(px(12), line->mapTo(this, QPoint(0, end ? line->height() + 2 : -4)).y(), width() - px(20), 2);
    mark_->show();
    mark_->raise();
}

void ControlsPanel::dragLeaveEvent(QDragLeaveEvent*) { mark_->hide(); }

void ControlsPanel::dropEvent(QDropEvent* event) {
    mark_->hide();
    event->acceptProposedAction();
    const std::string control = draggedControl(event->mimeData());
    if (control.empty()) {
        const auto [node, setting] = draggedSetting(event->mimeData());
        Q_EMIT settingDropped(QString::fromStdString(node), QString::fromStdString(setting));
        return;
    }
    const auto& controls = document_.loom().controls;
    std::size_t from = 0;
    while (from < controls.size() && controls[from].id != control) ++from;
    std::size_t to = placeAt(int(event->position().y()));
    if (from >= controls.size() || to == from || to == from + 1) return;
    // Into the section of what it is dropped on; behind the last, of the last.
    const std::string section = controls[std::min(to, controls.size() - 1)].section;
    document_.apply(moveControl(document_.loom(), control, to > from ? to - 1 : to, section));
}

}  // namespace seedloom::app
