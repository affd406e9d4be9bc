#include "app/widgets/LinesField.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "fields/Evaluate.h"
#include "operators/DrawnLine.h"

#include <QtCore/QSignalBlocker>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

namespace {

constexpr int kLineRow = 22, kMostLineRows = 6;

std::optional<Vec3> placeOf(const Json& point) {
    Numbers n;
    if (!numbersOf(point, n) || n.components != 3) return {};
    return Vec3{float(n.value[0]), float(n.value[1]), float(n.value[2])};
}

/// Metres along the points; what is no point is passed over.
double lengthOf(const Json& points) {
    double out = 0;
    std::optional<Vec3> last;
    for (const Json& point : points)
        if (const auto at = placeOf(point)) {
            if (last) out += double(distance(*last, *at));
            last = at;
        }
    return out;
}

QToolButton* button(const QString& text, const QString& tip, QWidget* parent) {
    auto* out = new QToolButton(parent);
    out->setText(text);
    out->setToolTip(tip);
    return out;
}

}  // namespace

LinesField::LinesField(QWidget* parent)
    : QWidget(parent), draw_(button(tr("Draw"), tr("Drag on the stage to draw a line; Escape ends it"), this)),
      remove_(button(tr("Remove"), tr("Removes the chosen line; the last one where none is chosen"), this)),
      clear_(button(tr("Clear"), tr("Removes all lines"), this)), count_(new QLabel(this)), list_(new QListWidget(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    draw_->setCheckable(true);
    count_->setProperty("role", "faint");
    for (QWidget* widget : {draw_, remove_, clear_}) row->addWidget(widget);
    row->addStretch();
    row->addWidget(count_);
    column->addLayout(row);
    list_->setAccessibleName(tr("Drawn lines"));
    list_->setToolTip(tr("Choose a line to see it on the stage and to drag its points. A line without its tick is kept, but left out of the model."));
    list_->setUniformItemSizes(true);
    list_->installEventFilter(this);
    column->addWidget(list_);
    connect(draw_, &QToolButton::toggled, this, &LinesField::drawingChanged);
    connect(remove_, &QToolButton::clicked, this, &LinesField::removeChosen);
    connect(clear_, &QToolButton::clicked, this, [this] { Q_EMIT edited(Json()); });
    connect(list_, &QListWidget::currentRowChanged, this, &LinesField::lineChosen);
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto line = std::size_t(list_->row(item));
        const bool shown = item->checkState() == Qt::Checked;
        if (line >= lines_.size() || lineHidden(lines_[line]) == !shown) return;
        Json lines = lines_;
        lines[line] = lineShown(lines[line], shown);
        Q_EMIT edited(lines);
    });
    setLines(Json::array());
}

void LinesField::setLines(const Json& lines) {
    const Json next = lines.is_array() ? lines : Json::array();
    if (next == lines_ && list_->count() == int(next.size()) && !count_->text().isEmpty()) return;
    const auto line = chosen(), curve = chosenCurve();
    lines_ = next;
    showRows();
    if (chosen() != line || chosenCurve() != curve) Q_EMIT lineChosen();
}

void LinesField::showRows() {
    const QSignalBlocker quiet(list_);
    while (list_->count() > int(lines_.size())) delete list_->takeItem(list_->count() - 1);
    while (list_->count() < int(lines_.size())) {
        auto* item = new QListWidgetItem(list_);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setSizeHint(QSize(0, px(kLineRow)));
    }
    int hidden = 0;
    for (std::size_t i = 0; i < lines_.size(); ++i) {
        QListWidgetItem* item = list_->item(int(i));
        const bool isHidden = lineHidden(lines_[i]);
        hidden += isHidden;
        item->setText(tr("Line %1  ·  %2 m").arg(i + 1).arg(shownNumber(lengthOf(pointsOfLine(lines_[i])), 'f', 2)));
        item->setCheckState(isHidden ? Qt::Unchecked : Qt::Checked);
        item->setForeground(isHidden ? colours().faint : colours().ink);
    }
    if (list_->currentRow() >= list_->count()) list_->setCurrentRow(-1);
    const int count = list_->count();
    list_->setVisible(count > 0);
    list_->setFixedHeight(std::clamp(count, 1, kMostLineRows) * px(kLineRow) + 2 * list_->frameWidth() + 2);
    count_->setText(hidden > 0 ? tr("%n line(s), %1 left out", nullptr, count).arg(hidden) : tr("%n line(s)", nullptr, count));
    remove_->setEnabled(count > 0);
    clear_->setEnabled(count > 0);
}

std::optional<std::size_t> LinesField::chosen() const {
    const int row = list_->currentRow();
    return row >= 0 && row < int(lines_.size()) ? std::optional(std::size_t(row)) : std::nullopt;
}

std::optional<std::size_t> LinesField::chosenCurve() const {
    const auto line = chosen();
    if (!line || lineHidden(lines_[*line])) return {};
    std::size_t out = 0;
    for (std::size_t i = 0; i < *line; ++i) out += !lineHidden(lines_[i]) && !pointsOfLine(lines_[i]).empty();
    return out;
}

void LinesField::removeChosen() {
    if (lines_.empty()) return;
    Json lines = lines_;
    lines.erase(chosen().value_or(lines.size() - 1));
    Q_EMIT edited(lines);
}

bool LinesField::drawing() const { return draw_->isChecked(); }

void LinesField::setDrawing(bool on) { draw_->setChecked(on); }

bool LinesField::eventFilter(QObject* watched, QEvent* event) {
    if (watched == list_ && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete && chosen()) {
        removeChosen();
        return true;
    }
    if (watched == list_ && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape && chosen()) {
        list_->setCurrentRow(-1);
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace seedloom::app
