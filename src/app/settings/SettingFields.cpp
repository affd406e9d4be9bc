// The fields of a setting's row, one builder for each kind of value.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/settings/MaterialsField.h"
#include "app/settings/RangeBox.h"
#include "app/settings/SettingRow.h"
#include "app/settings/StrokesField.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/FileField.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/LinesField.h"
#include "app/widgets/NoticeStrip.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/RampEditor.h"
#include "app/widgets/Slider.h"
#include "fields/Evaluate.h"

#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

double stepFor(const SettingSpec& spec) {
    if (spec.type == SettingType::integer) return 0.1;
    if (spec.low && spec.high) return std::pow(10.0, std::floor(std::log10((*spec.high - *spec.low) / 150)));
    return spec.unit == Unit::degree ? 1 : 0.01;
}

}  // namespace

NumberField* SettingRow::numberField(bool whole, const QString& unit, double step) {
    auto* field = new NumberField(this);
    field->setWhole(whole);
    field->setUnit(unit);
    field->setStep(step);
    field->setAccessibleName(catalogueText(spec_.label));
    followDrag(field);
    return field;
}

QHBoxLayout* SettingRow::addLine() {
    auto* line = new QHBoxLayout;
    line->setSpacing(5);
    body_->addLayout(line);
    return line;
}

void SettingRow::buildFixed() {
    switch (spec_.type) {
        case SettingType::number:
        case SettingType::integer: return buildNumber();
        case SettingType::boolean: {
            auto* box = new QCheckBox(this);
            box->setAccessibleName(catalogueText(spec_.label));
            connect(box, &QCheckBox::clicked, this, [this](bool on) { put(on); });
            refreshers_.push_back([box](const Json& v) { box->setChecked(v.is_boolean() ? v.get<bool>() : v.is_number() && v.get<double>() != 0); });
            head_->addWidget(box);
            head_->addStretch();
            return;
        }
        case SettingType::vec2: return buildVector(2);
        case SettingType::vec3: return buildVector(3);
        case SettingType::choice: return buildChoice();
        case SettingType::formula: return buildStatements();
        case SettingType::text: return buildText();
        case SettingType::strokes: return buildStrokes();
        case SettingType::lines: return buildLines();
        case SettingType::materials: return buildMaterials();
        case SettingType::file: return buildFile();
        case SettingType::points: return buildPoints();
        case SettingType::ramp: return buildRamp();
        case SettingType::range: return buildRange();
    }
}

void SettingRow::buildNumber() {
    const bool whole = spec_.type == SettingType::integer;
    if (value().is_boolean()) {  // a mask of all or nothing, such as where
        auto* box = new QCheckBox(tr("everywhere"), this);
        connect(box, &QCheckBox::clicked, this, [this](bool on) { put(on); });
        refreshers_.push_back([box](const Json& v) { box->setChecked(v.is_boolean() && v.get<bool>()); });
        head_->addWidget(box);
        head_->addStretch();
        return;
    }
    if (value().is_array()) return buildVector(int(value().size()));
    auto* field = numberField(whole, QString::fromUtf8(unitSymbol(spec_.unit).data()), stepFor(spec_));
    field->setLimits(spec_.min, spec_.max);
    connect(field, &NumberField::edited, this, [this, whole](double v, bool gesture) { put(numberJson(v, whole), gesture); });
    refreshers_.push_back([this, field](const Json& v) {
        if (v.is_number()) field->setValue(v.get<double>());
        field->setChangedFromDefault(v != spec_.fallback);
    });
    head_->addWidget(field, 1);
    if (!spec_.low) return head_->addStretch(1);
    auto* slider = new Slider(this);
    slider->setAccessibleName(catalogueText(spec_.label));
    slider->setRange(*spec_.low, *spec_.high);
    slider->setWhole(whole);
    followDrag(slider);
    connect(slider, &Slider::edited, this, [this, whole](double v, bool gesture) { put(numberJson(v, whole), gesture); });
    refreshers_.push_back([slider](const Json& v) {
        if (v.is_number()) slider->setValue(v.get<double>());
    });
    head_->addWidget(slider, 1);
}

void SettingRow::buildVector(int components) {
    const bool counts = spec_.id == "cells";
    for (int c = 0; c < std::min(components, 4); ++c) {
        auto* field = numberField(counts, components < 3 ? QString::fromUtf8(unitSymbol(spec_.unit).data()) : QString(), counts ? 0.1 : stepFor(spec_));
        field->setLimits(spec_.min, spec_.max);
        field->setMinimumWidth(44);
        connect(field, &NumberField::edited, this, [this, c, components, counts](double v, bool gesture) {
            Json now = value();
            if (!now.is_array()) now = Json::array_t(std::size_t(components), now);
            now[std::size_t(c)] = numberJson(v, counts);
            put(now, gesture);
        });
        refreshers_.push_back([field, c](const Json& v) {
            const Json& part = v.is_array() && std::size_t(c) < v.size() ? v[std::size_t(c)] : v;
            if (part.is_number()) field->setValue(part.get<double>());
        });
        head_->addWidget(field, 1);
    }
    if (spec_.drawsPlane) addPlaneButton();
}

void SettingRow::addPlaneButton() {
    plane_ = new QToolButton(this);
    plane_->setText(tr("Draw across the view"));
    plane_->setToolTip(
        tr("Drag a line on the stage: the plane goes through it, straight away from you. What lies to the left of the way you draw is above. Escape ends it."));
    plane_->setCheckable(true);
    connect(plane_, &QToolButton::toggled, this, &SettingRow::brushChanged);
    QHBoxLayout* line = addLine();
    line->addWidget(plane_);
    line->addStretch();
}

void SettingRow::buildChoice() {
    std::size_t letters = 0;
    for (const std::string& word : spec_.choices) letters += word.size() + 3;
    if (spec_.choices.size() <= 4 && letters < 25) {
        auto* group = new QButtonGroup(this);
        for (std::size_t i = 0; i < spec_.choices.size(); ++i) {
            auto* button = new QToolButton(this);
            button->setText(QString::fromStdString(spec_.choices[i]));
            button->setCheckable(true);
            button->setFixedHeight(px(24));
            group->addButton(button, int(i));
            head_->addWidget(button);
        }
        head_->addStretch();
        connect(group, &QButtonGroup::idClicked, this, [this](int i) { put(spec_.choices[std::size_t(i)]); });
        refreshers_.push_back([this, group](const Json& v) {
            for (std::size_t i = 0; i < spec_.choices.size(); ++i) group->button(int(i))->setChecked(v == spec_.choices[i]);
        });
        return;
    }
    auto* box = new QComboBox(this);
    box->setAccessibleName(catalogueText(spec_.label));
    for (const std::string& word : spec_.choices) box->addItem(QString::fromStdString(word));
    connect(box, &QComboBox::activated, this, [this](int i) { put(spec_.choices[std::size_t(i)]); });
    refreshers_.push_back([box](const Json& v) {
        if (v.is_string()) box->setCurrentText(QString::fromStdString(v.get<std::string>()));
    });
    head_->addWidget(box, 1);
}

void SettingRow::buildText() {
    auto* field = new QLineEdit(this);
    field->setAccessibleName(catalogueText(spec_.label));
    connect(field, &QLineEdit::editingFinished, this, [this, field] {
        if (Json(field->text().toStdString()) != value()) put(field->text().toStdString());
    });
    refreshers_.push_back([field](const Json& v) {
        if (v.is_string() && !field->hasFocus()) field->setText(QString::fromStdString(v.get<std::string>()));
    });
    head_->addWidget(field, 1);
}

void SettingRow::addSyntaxProblem() {
    auto* problem = new QLabel(this);
    problem->setWordWrap(true);
    problem->setFont(bodyFont(11));
    problem->setStyleSheet(QStringLiteral("color: %1;").arg(colours().chosen.name()));
    problem->hide();
    connect(formula_, &FormulaEditor::checked, this, [this, problem] {
        problem->setText(formula_->syntaxProblem());
        problem->setVisible(!formula_->syntaxProblem().isEmpty());
        notice_->setHidden(problem->isVisibleTo(this) || notice_->text().isEmpty());
    });
    body_->addWidget(problem);
}

void SettingRow::buildStatements() {
    head_->addStretch();
    formula_ = new FormulaEditor(FormulaForm::statements, this);
    formula_->setAccessibleName(catalogueText(spec_.label));
    formula_->setToolTip(tr("Ctrl+Space offers words; Ctrl+Enter takes the text at once"));
    // One stay in the field is one step back.
    connect(formula_, &FormulaEditor::editingStarted, this, [this] { startGesture(); });
    connect(formula_, &FormulaEditor::editingEnded, this, [this] { endGesture(); });
    connect(formula_, &FormulaEditor::settled, this, [this](const QString& text) { put(text.toStdString(), gesture_ != 0); });
    body_->addWidget(formula_);
    addSyntaxProblem();
    auto* names = new QLabel(this);
    names->setWordWrap(true);
    names->setFont(bodyFont(11));
    names->setAccessibleName(tr("Attributes that can be read"));
    connect(names, &QLabel::linkActivated, this, [this](const QString& name) {
        formula_->insertPlainText(name);
        formula_->setFocus();
    });
    body_->addWidget(names);
    refreshers_.push_back([this, names](const Json& v) {
        if (v.is_string() && !formula_->hasFocus()) formula_->showText(QString::fromStdString(v.get<std::string>()));
        const QStringList known = attributeNames();
        formula_->setNames(known);
        QStringList links;
        for (const QString& name : known)
            links << QStringLiteral("<a href=\"%1\" style=\"color:%2; text-decoration:none\">%1</a>").arg(name.toHtmlEscaped(), colours().fresh.name());
        names->setText(known.isEmpty() ? tr("No attributes yet: plug something in.") : tr("Attributes: %1").arg(links.join(QStringLiteral(" · "))));
    });
}

void SettingRow::buildStrokes() {
    head_->addStretch();
    strokes_ = new StrokesField(spec_.choices, this);
    connect(strokes_, &StrokesField::brushChanged, this, &SettingRow::brushChanged);
    connect(strokes_, &StrokesField::strokeChosen, this, &SettingRow::lineChosen);
    connect(strokes_, &StrokesField::edited, this, [this](const Json& strokes) { put(strokes); });
    refreshers_.push_back([this](const Json& v) { strokes_->setStrokes(v); });
    body_->addWidget(strokes_);
}

void SettingRow::buildMaterials() {
    head_->addStretch();
    auto* caption = new QLabel(tr("share"), this);
    caption->setProperty("role", "faint");
    head_->addWidget(caption);
    head_->addSpacing(px(40));  // over the column of shares
    auto* field = new MaterialsField(this);
    connect(field, &MaterialsField::edited, this, [this](const Json& list) { put(list); });
    refreshers_.push_back([field](const Json& v) { field->setMaterials(v); });
    body_->addWidget(field);
}

void SettingRow::buildLines() {
    head_->addStretch();
    lines_ = new LinesField(this);
    connect(lines_, &LinesField::drawingChanged, this, &SettingRow::brushChanged);
    connect(lines_, &LinesField::lineChosen, this, &SettingRow::lineChosen);
    connect(lines_, &LinesField::edited, this, [this](const Json& lines) { put(lines); });
    refreshers_.push_back([this](const Json& v) { lines_->setLines(v); });
    body_->addWidget(lines_);
}

void SettingRow::buildFile() {
    auto* file = new FileField(spec_.choices, QString::fromStdString(document_.file().parent_path().string()), this);
    file->field()->setAccessibleName(catalogueText(spec_.label));
    connect(file, &FileField::edited, this, [this](const QString& path) { put(path.toStdString()); });
    refreshers_.push_back([file](const Json& v) { file->setPath(v.is_string() ? QString::fromStdString(v.get<std::string>()) : QString()); });
    head_->addWidget(file, 1);
}

void SettingRow::buildPoints() {
    const Json now = value();
    auto* add = new QToolButton(this);
    add->setIcon(icon(QStringLiteral("add")));
    add->setToolTip(tr("Add a point after the last one"));
    add->setAccessibleName(tr("Add a point"));
    connect(add, &QToolButton::clicked, this, [this] {
        Json points = value();
        points.push_back(points.empty() ? Json::array({0.0, 0.0, 0.0}) : points.back());
        if (points.size() > 1) points.back()[1] = points.back()[1].get<double>() + 0.1;
        put(points);
    });
    head_->addStretch();
    head_->addWidget(smallLabel(tr("x, y, z in metres"), this));
    head_->addWidget(add);
    constexpr std::size_t kMostRows = 64;
    for (std::size_t i = 0; now.is_array() && i < std::min(now.size(), kMostRows); ++i) {
        QHBoxLayout* line = addLine();
        auto* number = smallLabel(QString::number(i + 1), this);
        number->setFixedWidth(18);
        line->addWidget(number);
        for (std::size_t c = 0; c < 3; ++c) {
            auto* field = numberField(false, {}, 0.005);
            field->setAccessibleName(tr("Point %1 %2").arg(i + 1).arg(QChar(char('x' + c))));
            connect(field, &NumberField::edited, this, [this, i, c](double v, bool gesture) {
                Json points = value();
                if (i < points.size()) points[i][c] = v;
                put(points, gesture);
            });
            refreshers_.push_back([field, i, c](const Json& v) {
                if (v.is_array() && i < v.size() && v[i].is_array() && c < v[i].size() && v[i][c].is_number()) field->setValue(v[i][c].get<double>());
            });
            line->addWidget(field, 1);
        }
        auto* remove = new QToolButton(this);
        remove->setIcon(icon(QStringLiteral("remove")));
        remove->setToolTip(tr("Remove this point"));
        remove->setAccessibleName(tr("Remove point %1").arg(i + 1));
        connect(remove, &QToolButton::clicked, this, [this, i] {
            Json points = value();
            if (i < points.size()) points.erase(i);
            put(points);
        });
        line->addWidget(remove);
    }
    if (now.is_array() && now.size() > kMostRows) body_->addWidget(smallLabel(tr("… and %1 more").arg(now.size() - kMostRows), this));
}

void SettingRow::buildRamp() {
    auto* editor = new RampEditor(this);
    followDrag(editor);
    connect(editor, &RampEditor::edited, this, [this](const Ramp& ramp, bool gesture) { put(rampToJson(ramp), gesture); });
    refreshers_.push_back([editor](const Json& v) {
        if (const auto ramp = rampFromJson(v)) editor->setRamp(*ramp);
    });
    head_->addStretch();
    body_->addWidget(editor);
}

void SettingRow::buildRange() {
    auto* range = new RangeBox(this);
    head_->addWidget(range);
    head_->addStretch();
    connect(range, &RangeBox::picked, this, [this](const Json& picked) { put(picked); });
    connect(range, &RangeBox::numbersWanted, this, [this] { askNumbers(attributeOfRange(), value(), [this](const Json& numbers) { put(numbers); }); });
    refreshers_.push_back([range](const Json& v) { range->setRange(v); });
    addRangeNumbers([](Json& v) { return &v; });
}

/// Both ends, while they are two numbers; `rangeIn` finds the range in the value.
void SettingRow::addRangeNumbers(std::function<Json*(Json& value)> rangeIn) {
    QHBoxLayout* line = addLine();
    for (std::size_t c = 0; c < 2; ++c) {
        auto* field = numberField(false, {}, 0.01);
        field->setAccessibleName(c == 0 ? tr("Range from") : tr("Range to"));
        connect(field, &NumberField::edited, this, [this, c, rangeIn](double v, bool gesture) {
            Json now = value();
            Json* range = rangeIn(now);
            if (!range) return;
            if (!range->is_array()) *range = Json::array({0.0, 1.0});
            (*range)[c] = v;
            put(now, gesture);
        });
        refreshers_.push_back([field, c, rangeIn](const Json& v) {
            Json now = v;
            const Json* range = rangeIn(now);
            const bool numbers = range && range->is_array() && c < range->size() && (*range)[c].is_number();
            field->setVisible(numbers);
            if (numbers) field->setValue((*range)[c].get<double>());
        });
        line->addWidget(field, 1);
    }
}

}  // namespace seedloom::app
