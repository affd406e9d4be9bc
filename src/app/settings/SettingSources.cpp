// The fields of a setting's row for sources: control, formula, attribute, ramp, noise, random.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/session/Session.h"
#include "app/settings/RangeBox.h"
#include "app/settings/SettingRow.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/RampEditor.h"
#include "fields/ValueRange.h"

#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

void SettingRow::buildFormula() {
    formula_ = new FormulaEditor(FormulaForm::expression, this);
    formula_->setAccessibleName(tr("Formula for %1").arg(catalogueText(spec_.label)));
    formula_->setToolTip(tr("For example ctl.height * 0.5, or mix(0.1, 0.3, along). Ctrl+Space offers words; Enter takes the text at once."));
    connect(formula_, &FormulaEditor::editingStarted, this, [this] { startGesture(); });
    connect(formula_, &FormulaEditor::editingEnded, this, [this] { endGesture(); });
    connect(formula_, &FormulaEditor::settled, this, [this](const QString& text) { put({{"formula", text.toStdString()}}, gesture_ != 0); });
    refreshers_.push_back([this](const Json& v) {
        if (!v.is_object() || !v.contains("formula")) return;
        if (!formula_->hasFocus()) formula_->showText(QString::fromStdString(v["formula"].get<std::string>()));
        QStringList names = attributeNames();
        for (const Control& control : document_.visibleControls()) names << QStringLiteral("ctl.") + QString::fromStdString(control.id);
        formula_->setNames(names);
    });
    head_->addWidget(formula_, 1);
    addSyntaxProblem();
}

void SettingRow::buildControl() {
    auto* box = new QComboBox(this);
    box->setAccessibleName(tr("Control for %1").arg(catalogueText(spec_.label)));
    connect(box, &QComboBox::activated, this, [this, box](int i) { put({{"control", box->itemData(i).toString().toStdString()}}); });
    refreshers_.push_back([this, box](const Json& v) {
        const QSignalBlocker blocker(box);
        box->clear();
        for (const Control& c : document_.visibleControls())
            box->addItem(icon(QStringLiteral("control"), colours().chosen), QString::fromStdString(c.label), QString::fromStdString(c.id));
        if (v.is_object() && v.contains("control")) box->setCurrentIndex(box->findData(QString::fromStdString(v["control"].get<std::string>())));
    });
    head_->addWidget(box, 1);
}

void SettingRow::addPart(QHBoxLayout* row, const QString& label, const char* source, const char* key, double fallback, bool whole, int element) {
    row->addWidget(smallLabel(label, this));
    auto* field = numberField(whole, {}, whole ? 0.1 : 0.01);
    field->setAccessibleName(label);
    field->setMinimumWidth(46);
    const auto read = [source, key, fallback, element](const Json& v) {
        const Json& in = source ? v[source] : v;
        const auto it = in.find(key);
        if (it == in.end()) return fallback;
        return element < 0 ? it->get<double>() : (*it)[std::size_t(element)].get<double>();
    };
    connect(field, &NumberField::edited, this, [this, source, key, fallback, whole, element](double number, bool gesture) {
        Json now = value();
        Json& in = source ? now[source] : now;
        if (element < 0) {
            in[key] = numberJson(number, whole);
        } else {
            // Written out whole: what was not there yet stood for its default.
            const bool range = std::string_view(key) == "range";
            if (!in.contains(key))
                in[key] = range ? Json::array({std::string_view(source) == "noise" ? -1.0 : 0.0, 1.0}) : Json::array({fallback, fallback, fallback});
            in[key][std::size_t(element)] = number;
        }
        put(now, gesture);
    });
    refreshers_.push_back([field, read, source](const Json& v) {
        if (v.is_object() && (!source || v.contains(source))) field->setValue(read(v));
    });
    row->addWidget(field, 1);
}

void SettingRow::buildAttribute() {
    auto* box = new QComboBox(this);
    box->setEditable(true);
    box->setInsertPolicy(QComboBox::NoInsert);
    box->setAccessibleName(tr("Attribute for %1").arg(catalogueText(spec_.label)));
    const auto take = [this, box] {
        Json now = value();
        if (!now.is_object() || now.value("attribute", std::string()) == box->currentText().toStdString()) return;
        now["attribute"] = box->currentText().toStdString();
        put(now);
    };
    connect(box, &QComboBox::activated, this, take);
    connect(box->lineEdit(), &QLineEdit::editingFinished, this, take);
    refreshers_.push_back([this, box](const Json& v) {
        if (box->lineEdit()->hasFocus() || !v.is_object()) return;
        const QSignalBlocker blocker(box);
        box->clear();
        box->addItems(attributeNames());
        box->setCurrentText(QString::fromStdString(v.value("attribute", std::string())));
    });
    head_->addWidget(box, 1);
    QHBoxLayout* line = addLine();
    addPart(line, tr("times"), nullptr, "scale", 1);
    addPart(line, tr("plus"), nullptr, "add", 0);
}

namespace {

/// How much a frame adds to what a ramp runs over; 0 where that is neither the frame nor the time.
double secondsOrFrames(const std::string& over) { return over == "frame" ? 1 : over == "time" ? 1 / Session::kFramesPerSecond : 0; }

/// Frames or seconds on a ramp's axis.
std::optional<RampEditor::Axis> axisOf(const Json& ramp, const RebuildService& rebuilds) {
    const double each = secondsOrFrames(ramp.value("over", std::string("along")));
    const auto range = valueRange(ramp.value("range", Json("auto")));
    if (!(each > 0) || !range || !range->fixed) return {};
    const auto [from, to] = *range->fixed;
    return RampEditor::Axis{from, to, each, each < 1 ? QStringLiteral(" s") : QString(), rebuilds.frame() * each};
}

}  // namespace

void SettingRow::buildRampSource() {
    head_->addStretch(1);
    auto* editor = new RampEditor(this);
    followDrag(editor);
    connect(editor, &RampEditor::edited, this, [this](const Ramp& ramp, bool gesture) {
        Json now = value();
        now["ramp"]["knots"] = rampToJson(ramp)["knots"];
        put(now, gesture);
    });
    refreshers_.push_back([this, editor](const Json& v) {
        if (!v.is_object() || !v.contains("ramp")) return;
        if (const auto ramp = rampFromJson(v["ramp"])) editor->setRamp(*ramp);
        editor->setAxis(axisOf(v["ramp"], rebuilds_));
        refreshHistogram(editor, v["ramp"].value("over", std::string("along")));
    });
    body_->addWidget(editor);
    QHBoxLayout* line = addLine();
    line->addWidget(smallLabel(tr("over"), this));
    auto* over = new QLineEdit(this);
    over->setFont(numberFont(12));
    over->setAccessibleName(tr("Ramp over"));
    over->setToolTip(tr("An attribute or a formula that runs along the ramp"));
    connect(over, &QLineEdit::editingFinished, this, [this, over] {
        Json now = value();
        if (!now.is_object() || now["ramp"].value("over", std::string()) == over->text().toStdString()) return;
        now["ramp"]["over"] = over->text().toStdString();
        // By itself there is nothing that it could be spread over.
        if (const double each = secondsOrFrames(over->text().toStdString()); each > 0 && now["ramp"].value("range", Json("auto")).is_string())
            now["ramp"]["range"] = {0, std::max(1, rebuilds_.lastFrame()) * each};
        put(now);
    });
    refreshers_.push_back([over](const Json& v) {
        if (v.is_object() && v.contains("ramp") && !over->hasFocus()) over->setText(QString::fromStdString(v["ramp"].value("over", std::string("along"))));
    });
    line->addWidget(over, 1);
    auto* range = new RangeBox(this);
    const auto take = [this](const Json& picked) {
        Json now = value();
        now["ramp"]["range"] = picked;
        put(now);
    };
    connect(range, &RangeBox::picked, this, take);
    connect(range, &RangeBox::numbersWanted, this, [this, take] {
        const Json now = value();
        if (!now.is_object()) return;
        askNumbers(now["ramp"].value("over", std::string("along")), now["ramp"].value("range", Json("auto")), take);
    });
    refreshers_.push_back([range](const Json& v) {
        if (v.is_object() && v.contains("ramp")) range->setRange(v["ramp"].value("range", Json("auto")));
    });
    line->addWidget(range);
    addRangeNumbers([](Json& v) -> Json* { return v.is_object() && v.contains("ramp") && v["ramp"].contains("range") ? &v["ramp"]["range"] : nullptr; });
}

void SettingRow::buildNoise() {
    auto* kind = new QComboBox(this);
    kind->setAccessibleName(tr("Kind of noise"));
    for (const std::string_view name : kNoiseKinds) kind->addItem(QString::fromUtf8(name.data(), int(name.size())));
    connect(kind, &QComboBox::activated, this, [this, kind] {
        Json now = value();
        now["noise"]["kind"] = kind->currentText().toStdString();
        put(now);
    });
    refreshers_.push_back([kind](const Json& v) {
        if (v.is_object() && v.contains("noise")) kind->setCurrentText(QString::fromStdString(v["noise"].value("kind", std::string("gradient"))));
    });
    head_->addWidget(kind, 1);
    QHBoxLayout* first = addLine();
    addPart(first, tr("size"), "noise", "size", 1);
    addPart(first, tr("layers"), "noise", "octaves", 1, true);
    addPart(first, tr("seed"), "noise", "seed", 0, true);
    QHBoxLayout* second = addLine();
    addPart(second, tr("from"), "noise", "range", -1, false, 0);
    addPart(second, tr("to"), "noise", "range", 1, false, 1);
    addPart(second, tr("rough"), "noise", "roughness", 0.5);
    QHBoxLayout* third = addLine();
    third->addWidget(smallLabel(tr("stretch"), this));
    for (int c = 0; c < 3; ++c) addPart(third, QString(QChar('x' + c)), "noise", "stretch", 1, false, c);
    QHBoxLayout* fourth = addLine();
    fourth->addWidget(smallLabel(tr("offset"), this));
    for (int c = 0; c < 3; ++c) addPart(fourth, QString(QChar('x' + c)), "noise", "offset", 0, false, c);
    auto* ridged = new QCheckBox(tr("ridged"), this);
    ridged->setToolTip(tr("Folds each layer at its middle, which gives sharp ridges"));
    connect(ridged, &QCheckBox::clicked, this, [this](bool on) {
        Json now = value();
        now["noise"]["ridged"] = on;
        put(now);
    });
    refreshers_.push_back([ridged](const Json& v) {
        if (v.is_object() && v.contains("noise")) ridged->setChecked(v["noise"].value("ridged", false));
    });
    fourth->addWidget(ridged);
}

void SettingRow::buildRandom() {
    head_->addStretch(1);
    QHBoxLayout* line = addLine();
    addPart(line, tr("from"), "random", "range", 0, false, 0);
    addPart(line, tr("to"), "random", "range", 1, false, 1);
    addPart(line, tr("seed"), "random", "seed", 0, true);
}

}  // namespace seedloom::app
