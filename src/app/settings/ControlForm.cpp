#include "app/settings/ControlForm.h"

#include "app/look/Theme.h"
#include "app/widgets/NumberField.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QCompleter>
#include <QtWidgets/QFormLayout>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

ControlForm::ControlForm(const Control& control, const QStringList& sections, const QString& button, QWidget* parent)
    : QFrame(parent), start_(control), name_(new QLineEdit(QString::fromStdString(control.label), this)),
      section_(new QLineEdit(QString::fromStdString(control.section), this)), unit_(new QLineEdit(QString::fromStdString(control.unit), this)),
      help_(new QLineEdit(QString::fromStdString(control.help), this)) {
    setObjectName(QStringLiteral("controlForm"));
    setStyleSheet(
        QStringLiteral("#controlForm { background: %1; border: 1px solid %2; border-radius: 4px; }").arg(colours().paper.name(), colours().chosen.name()));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    auto* form = new QFormLayout;
    form->setHorizontalSpacing(10);
    form->setVerticalSpacing(4);
    const auto add = [&](const QString& text, QLineEdit* field) {
        field->setAccessibleName(text);
        form->addRow(text, field);
    };
    add(tr("Name"), name_);
    add(tr("Section"), section_);
    section_->setCompleter(new QCompleter(sections, section_));
    if (control.type == "number" || control.type == "integer") {
        auto* line = new QHBoxLayout;
        const auto number = [&](const std::optional<double>& value, double fallback, const QString& text) {
            auto* field = new NumberField(this);
            field->setWhole(control.type == "integer");
            field->setValue(value.value_or(fallback));
            field->setAccessibleName(text);
            line->addWidget(field, 1);
            return field;
        };
        const double now = control.fallback.is_number() ? control.fallback.get<double>() : 0;
        least_ = number(control.min, std::min(0.0, now * 2), tr("Least value"));
        line->addSpacing(4);
        line->addWidget(new QLabel(tr("to"), this));
        line->addSpacing(4);
        most_ = number(control.max, now > 0 ? now * 2 : 1, tr("Largest value"));
        form->addRow(tr("Range"), line);
        add(tr("Unit"), unit_);
    } else {
        unit_->hide();
    }
    add(tr("Help"), help_);
    help_->setPlaceholderText(tr("One sentence for whoever turns it"));
    column->addLayout(form);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    auto* cancel = new QPushButton(tr("Cancel"), this);
    auto* take = new QPushButton(button, this);
    take->setDefault(true);
    take->setProperty("role", "default");
    buttons->addWidget(cancel);
    buttons->addWidget(take);
    column->addLayout(buttons);
    connect(cancel, &QPushButton::clicked, this, [this] { Q_EMIT done(false); });
    connect(take, &QPushButton::clicked, this, [this] { Q_EMIT done(true); });
    for (QLineEdit* field : {name_, section_, unit_, help_}) connect(field, &QLineEdit::returnPressed, this, [this] { Q_EMIT done(true); });
    name_->selectAll();
}

Control ControlForm::control() const {
    Control out = start_;
    const auto text = [](const QLineEdit* field) { return field->text().trimmed().toStdString(); };
    if (!text(name_).empty()) out.label = text(name_);
    out.section = text(section_);
    out.unit = text(unit_);
    out.help = text(help_);
    if (least_ && most_) {
        out.min = std::min(least_->value(), most_->value());
        out.max = std::max(least_->value(), most_->value());
    }
    return out;
}

void ControlForm::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return done(false);
    QFrame::keyPressEvent(event);
}

}  // namespace seedloom::app
