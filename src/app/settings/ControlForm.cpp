#include "app/settings/ControlForm.h"

#include "app/look/Theme.h"
#include "app/settings/ControlRow.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/NumberField.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QCompleter>
#include <QtWidgets/QFormLayout>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

/// Words that stand in one line, parted by commas.
std::vector<std::string> wordsOf(const QLineEdit* field) {
    std::vector<std::string> out;
    for (const QString& word : field->text().split(QLatin1Char(','), Qt::SkipEmptyParts))
        if (!word.trimmed().isEmpty()) out.push_back(word.trimmed().toStdString());
    return out;
}

std::string joined(const std::vector<std::string>& words) {
    QStringList out;
    for (const std::string& word : words) out << QString::fromStdString(word);
    return out.join(QStringLiteral(", ")).toStdString();
}

bool isComputed(const Json& fallback) { return fallback.is_object() && fallback.contains("formula"); }

}  // namespace

ControlForm::ControlForm(const Control& control, Around around, const QString& button, QWidget* parent)
    : QFrame(parent), start_(control), around_(std::move(around)), form_(new QFormLayout), fallback_(control.fallback) {
    setObjectName(QStringLiteral("controlForm"));
    setStyleSheet(
        QStringLiteral("#controlForm { background: %1; border: 1px solid %2; border-radius: 4px; }").arg(colours().paper.name(), colours().chosen.name()));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    form_->setHorizontalSpacing(10);
    form_->setVerticalSpacing(4);
    name_ = addLine(tr("Name"), tr("What people read beside it"), control.label);
    id_ = addLine(tr("Id"), tr("What files and formulas call it"), control.id);
    id_->setFont(numberFont(12));
    id_->setToolTip(tr("What files and formulas call it, as in ctl.%1. Everything follows a change.").arg(QString::fromStdString(control.id)));
    section_ = addLine(tr("Section"), tr("The heading under which it stands"), control.section);
    section_->setCompleter(new QCompleter(around_.sections, section_));
    help_ = addLine(tr("Help"), tr("What it does, in one sentence"), control.help, tr("One sentence for whoever turns it"));
    type_ = new QComboBox(this);
    type_->setAccessibleName(tr("Type"));
    type_->setAccessibleDescription(tr("What kind of value it takes"));
    const std::pair<const char*, QString> types[] = {{"number", tr("Number")},      {"integer", tr("Whole number")},
                                                     {"boolean", tr("Yes or no")},  {"choice", tr("Choice")},
                                                     {"text", tr("Text")},          {"vec2", tr("Two numbers")},
                                                     {"vec3", tr("Three numbers")}, {"color", tr("Colour")},
                                                     {"ramp", tr("Ramp")},          {"file", tr("File")}};
    for (const auto& [type, text] : types) type_->addItem(text, QLatin1String(type));
    type_->setCurrentIndex(std::max(0, type_->findData(QString::fromStdString(control.type))));
    form_->addRow(tr("Type"), type_);
    choices_ = addLine(tr("Choices"), tr("The words to choose from, with commas between"), joined(control.choices), tr("round, square, star"));
    pictures_ = addLine(tr("Pictures"), tr("Files of pictures, one for each choice"), joined(control.pictures), tr("round.png, square.png, …"));
    pictures_->setToolTip(tr("Files of pictures, one for each choice, from the folder of the document"));
    default_ = new QWidget(this);
    auto* line = new QHBoxLayout(default_);
    line->setContentsMargins(0, 0, 0, 0);
    computed_ = new QToolButton(default_);
    computed_->setIcon(icon(QStringLiteral("formula")));
    computed_->setCheckable(true);
    computed_->setChecked(isComputed(fallback_));
    computed_->setToolTip(tr("Computes the default from other controls by a formula"));
    computed_->setAccessibleName(tr("Computed default"));
    connect(computed_, &QToolButton::clicked, this, [this](bool on) {
        fallback_ = on ? Json{{"formula", formulaOf(fallback_)}} : Json(0.0);
        showDefault();
    });
    line->addWidget(computed_, 0, Qt::AlignTop);
    form_->addRow(tr("Default"), default_);
    addNumbers();
    addConditions();
    column->addLayout(form_);
    problem_ = new QLabel(this);
    problem_->setWordWrap(true);
    problem_->setProperty("role", "warning");
    problem_->setAccessibleName(tr("What is wrong"));
    problem_->hide();
    addPlaces();
    column->addWidget(problem_);
    addButtons(button);
    connect(type_, &QComboBox::activated, this, &ControlForm::showType);
    connect(choices_, &QLineEdit::editingFinished, this, &ControlForm::showDefault);
    for (QLineEdit* field : findChildren<QLineEdit*>())
        if (!qobject_cast<NumberField*>(field)) connect(field, &QLineEdit::returnPressed, this, &ControlForm::take);
    for (FormulaEditor* field : {shown_, allowed_}) connect(field, &FormulaEditor::settled, this, [this] { problem_->hide(); });
    showType();
    name_->selectAll();
}

QLineEdit* ControlForm::addLine(const QString& label, const QString& help, const std::string& text, const QString& placeholder) {
    auto* field = new QLineEdit(QString::fromStdString(text), this);
    field->setAccessibleName(label);
    field->setAccessibleDescription(help);
    field->setPlaceholderText(placeholder);
    field->setCursorPosition(0);  // a long text is read from its beginning
    form_->addRow(label, field);
    return field;
}

QLineEdit* ControlForm::addNumber(QWidget* row, const std::optional<double>& value, const QString& name, const QString& none) {
    auto* field = new QLineEdit(value ? numberText(*value, start_.type == "integer") : QString(), row);
    field->setAccessibleName(name);
    field->setAccessibleDescription(row->toolTip().isEmpty() ? tr("A number, or nothing") : row->toolTip());
    field->setPlaceholderText(none);
    field->setMinimumWidth(px(56));
    row->layout()->addWidget(field);
    return field;
}

void ControlForm::addNumbers() {
    const auto row = [&](const QString& label) {
        auto* widget = new QWidget(this);
        auto* line = new QHBoxLayout(widget);
        line->setContentsMargins(0, 0, 0, 0);
        form_->addRow(label, widget);
        return widget;
    };
    const auto between = [&](QWidget* in, const QString& text) { in->layout()->addWidget(smallLabel(text, in)); };
    limits_ = row(tr("Limits"));
    limits_->setToolTip(tr("Values outside are refused"));
    least_ = addNumber(limits_, start_.min, tr("Least value"), tr("none"));
    between(limits_, tr("to"));
    most_ = addNumber(limits_, start_.max, tr("Largest value"), tr("none"));
    sliderEnds_ = row(tr("Slider"));
    sliderEnds_->setToolTip(tr("Where the slider runs, where that is less than the limits; larger numbers can still be typed"));
    low_ = addNumber(sliderEnds_, start_.low, tr("Slider from"), tr("limit"));
    between(sliderEnds_, tr("to"));
    high_ = addNumber(sliderEnds_, start_.high, tr("Slider to"), tr("limit"));
    between(sliderEnds_, tr("by"));
    step_ = addNumber(sliderEnds_, start_.step, tr("Step"), tr("any"));
    unit_ = addLine(tr("Unit"), tr("What stands behind the number"), start_.unit, tr("m, °"));
}

FormulaEditor* ControlForm::addCondition(const QString& label, const std::string& text, const QString& placeholder) {
    auto* field = new FormulaEditor(FormulaForm::expression, this);
    field->showText(QString::fromStdString(text));
    field->setNames(around_.controls);
    field->setPlaceholderText(placeholder);
    field->setAccessibleName(label);
    form_->addRow(label, field);
    return field;
}

void ControlForm::addConditions() {
    shown_ = addCondition(tr("Shown when"), start_.shownWhen, tr("always"));
    shown_->setToolTip(tr("A formula over other controls, as in ctl.lid == true: where it does not hold, whoever uses the loom does not see this one"));
    allowed_ = addCondition(tr("Allowed when"), start_.allowedWhen, tr("always"));
    allowed_->setToolTip(tr("A formula over controls, as in ctl.wall < ctl.radius: a hand on a slider stops where it would no longer hold"));
}

void ControlForm::addPlaces() {
    QStringList links;
    for (std::size_t i = 0; i < around_.readings.size(); ++i) {
        const ControlReading& reading = around_.readings[i];
        const QString text = QStringLiteral("%1 · %2").arg(QString::fromStdString(reading.node), QString::fromStdString(reading.setting)).toHtmlEscaped();
        links << QStringLiteral("<a href=\"%1\" style=\"color:%2; text-decoration:none\">%3%4</a>")
                     .arg(QString::number(i), colours().fresh.name(), text, reading.formula ? QStringLiteral(" <i>ƒ</i>") : QString());
    }
    for (const std::string& reader : around_.readers) links << tr("the control %1").arg(QString::fromStdString(reader).toHtmlEscaped());
    auto* drives = new QLabel(links.isEmpty() ? tr("nothing yet: drag its name onto a setting") : links.join(QStringLiteral("<br>")), this);
    drives->setWordWrap(true);
    drives->setAccessibleName(tr("What it drives"));
    drives->setToolTip(links.isEmpty() ? tr("No setting and no formula reads it") : tr("Click to go there"));
    connect(drives, &QLabel::linkActivated, this, [this](const QString& number) { Q_EMIT placeWanted(around_.readings[number.toUInt()]); });
    form_->addRow(tr("Drives"), drives);
}

void ControlForm::addButtons(const QString& button) {
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    auto* cancel = new QPushButton(tr("Cancel"), this);
    auto* take = new QPushButton(button, this);
    take->setDefault(true);
    take->setToolTip(tr("Takes all of it, as one step"));
    cancel->setToolTip(tr("Leaves everything as it was (Esc)"));
    take->setProperty("role", "default");
    buttons->addWidget(cancel);
    buttons->addWidget(take);
    static_cast<QVBoxLayout*>(layout())->addLayout(buttons);
    connect(cancel, &QPushButton::clicked, this, [this] { Q_EMIT done(false); });
    connect(take, &QPushButton::clicked, this, &ControlForm::take);
}

/// Only what a type has is asked for.
void ControlForm::showType() {
    const QString type = type_->currentData().toString();
    const bool numbers = type == QLatin1String("number") || type == QLatin1String("integer") || type.startsWith(QLatin1String("vec"));
    const bool one = type == QLatin1String("number") || type == QLatin1String("integer");
    const auto set = [&](QWidget* field, bool visible) {
        field->setVisible(visible);
        form_->labelForField(field)->setVisible(visible);
    };
    set(limits_, numbers);
    set(sliderEnds_, one);
    set(unit_, numbers);
    set(choices_, type == QLatin1String("choice"));
    set(pictures_, type == QLatin1String("choice"));
    computed_->setVisible(numbers || type == QLatin1String("boolean") || type == QLatin1String("color"));
    showDefault();
}

/// The default is set by the fields that whoever uses the control will have.
void ControlForm::showDefault() {
    for (QWidget* old : {static_cast<QWidget*>(row_), static_cast<QWidget*>(formula_)})
        if (old) old->hide(), old->deleteLater();
    row_ = nullptr;
    formula_ = nullptr;
    if (isComputed(fallback_)) {
        formula_ = new FormulaEditor(FormulaForm::expression, default_);
        formula_->showText(QString::fromStdString(fallback_["formula"].is_string() ? fallback_["formula"].get<std::string>() : std::string()));
        formula_->setNames(around_.controls);
        formula_->setAccessibleName(tr("Default, computed from other controls"));
        formula_->setAccessibleDescription(tr("A formula over other controls, as in ctl.height * 0.5"));
        static_cast<QHBoxLayout*>(default_->layout())->insertWidget(0, formula_, 1);
        return;
    }
    // What was there is kept until it is changed, so that a type which was chosen in passing takes nothing away.
    const Control now = control();
    row_ = new ControlRow(now, around_.folder, default_);
    row_->show(now.fallback);
    connect(row_, &ControlRow::edited, this, [this](const Json& value, bool) {
        fallback_ = value;
        row_->show(value);
    });
    static_cast<QHBoxLayout*>(default_->layout())->insertWidget(0, row_, 1);
}

Control ControlForm::control() const {
    Control out = start_;
    const auto text = [](const QLineEdit* field) { return field->text().trimmed().toStdString(); };
    if (!text(name_).empty()) out.label = text(name_);
    out.id = text(id_);
    out.section = text(section_);
    out.unit = text(unit_);
    out.help = text(help_);
    out.type = type_->currentData().toString().toStdString();
    out.choices = wordsOf(choices_);
    out.pictures = wordsOf(pictures_);
    const auto number = [&](const QLineEdit* field) { return numberFromText(field->text(), QString::fromStdString(out.unit)); };
    out.min = number(least_), out.max = number(most_);
    out.low = number(low_), out.high = number(high_), out.step = number(step_);
    out.shownWhen = shown_->toPlainText().trimmed().toStdString();
    out.allowedWhen = allowed_->toPlainText().trimmed().toStdString();
    if (formula_) out.fallback = Json{{"formula", formula_->toPlainText().trimmed().toStdString()}};
    else if (!isComputed(fallback_)) out.fallback = fittedValue(out, fallback_);
    return out;
}

QString ControlForm::problem() const { return problem_->isHidden() ? QString() : problem_->text(); }

void ControlForm::take() {
    const Control filled = control();
    QString wrong;
    for (const QLineEdit* field : {least_, most_, low_, high_, step_})
        if (!field->text().trimmed().isEmpty() && field->isVisible() && !numberFromText(field->text(), QString::fromStdString(filled.unit)))
            wrong = tr("%1: '%2' is no number.").arg(field->accessibleName(), field->text());
    if (const auto error = wrong.isEmpty() && around_.problem ? around_.problem(filled) : std::nullopt) wrong = QString::fromStdString(error->text);
    problem_->setText(wrong);
    problem_->setVisible(!wrong.isEmpty());
    if (wrong.isEmpty()) Q_EMIT done(true);
}

void ControlForm::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return done(false);
    QFrame::keyPressEvent(event);
}

}  // namespace seedloom::app
