#pragma once
// One setting of one node: name, value, slider, and the button that says where the value comes from.
#include "app/session/Background.h"
#include "app/session/Document.h"
#include "app/session/RebuildService.h"
#include "app/settings/SourceValues.h"
#include "operators/Spec.h"

#include <QtCore/QPointer>
#include <QtWidgets/QWidget>

#include <atomic>

class QVBoxLayout;
class QHBoxLayout;
class QLabel;
class QToolButton;

namespace seedloom::app {

class DragName;
class FormulaEditor;
class NumberField;
class RampEditor;
class SourcePreview;
class LinesField;
class NoticeStrip;
class StrokesField;

class SettingRow : public QWidget {
    Q_OBJECT

public:
    /// `nodes` are all of one kind; values are shown of the last and changed for all.
    /// What a source gives is worked out on `background`, which must outlive the row.
    SettingRow(Document& document, RebuildService& rebuilds, Background& background, std::vector<std::string> nodes, const SettingSpec& spec, QWidget* parent);

    const SettingSpec& spec() const { return spec_; }
    /// Shows the document's value; the source kind must be the one the row was made for.
    void refresh();
    /// What decides how the row is built: another shape needs a new row.
    std::string shape() const;
    void setNotice(const Notice& notice);
    NoticeStrip* notice() const { return notice_; }
    /// Marks a place in a formula, from 1; 0 for none.
    void setMark(int line, int column);
    StrokesField* strokes() const { return strokes_; }
    LinesField* lines() const { return lines_; }
    /// Pressed while a plane is drawn as a line across the view; nullptr where the setting is no plane.
    QToolButton* planeButton() const { return plane_; }
    SourcePreview* preview() const { return preview_; }
    FormulaEditor* formulaEditor() const { return formula_; }
    QToolButton* sourceButton() const { return sourceButton_; }
    QWidget* nameLabel() const;
    /// The control that this setting would become.
    Control proposedControl() const;
    bool canBecomeControl() const;

Q_SIGNALS:
    /// Painting begins or ends, or the brush is another.
    void brushChanged();
    /// A change that a notice offers.
    void fixWanted(const NoticeFix& fix);
    /// Another drawn line or stroke is chosen, or none.
    void lineChosen();
    /// The user asks to make a control of it.
    void controlWanted(const QString& node, const QString& setting);

protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragLeaveEvent(QDragLeaveEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

private:
    Json value() const;
    void put(const Json& value, bool gesture = false);
    void startGesture() { gesture_ = document_.newGesture(); }
    void endGesture() {
        gesture_ = 0;
        document_.endGesture();
    }
    /// True where the chosen nodes have different values.
    bool mixed() const;
    QString tip() const;
    template <class Field> void followDrag(Field* field) {
        connect(field, &Field::dragStarted, this, [this] { startGesture(); });
        connect(field, &Field::dragEnded, this, [this] { endGesture(); });
    }
    NumberField* numberField(bool whole, const QString& unit, double step);

    void build();
    void buildFixed();
    void buildNumber();
    void buildVector(int components);
    void buildChoice();
    void buildText();
    void buildPoints();
    void buildRamp();
    void buildRange();
    void addRangeNumbers(std::function<Json*(Json& value)> rangeIn);
    void buildFormula();
    void buildStatements();
    /// The problem that the language sees, below the field.
    void addSyntaxProblem();
    void addPlaneButton();
    void buildStrokes();
    void buildLines();
    void buildMaterials();
    void buildFile();
    void buildAttribute();
    void buildControl();
    void buildRampSource();
    void buildNoise();
    void buildRandom();
    /// A labelled number inside a source object.
    void addPart(QHBoxLayout* row, const QString& label, const char* source, const char* key, double fallback, bool whole = false, int element = -1);
    QHBoxLayout* addLine();
    void openSourceMenu();
    void useSource(const std::string& kind);
    QStringList attributeNames() const;
    std::optional<Geometry> incoming() const;
    Element elementNow() const;
    std::optional<SourceValues> sourceValues() const;
    using Newest = std::shared_ptr<std::atomic<int>>;
    void ask(Newest& newest, std::function<Background::Then()> work);
    /// Two numbers to begin with for a range over an attribute or formula: those between which it lies now, else 0 and 1.
    void askNumbers(const std::string& over, const Json& range, std::function<void(const Json& numbers)> then);
    /// The attribute that the node's other settings name, where this one is a range of it.
    std::string attributeOfRange() const;
    void addPreview();
    void refreshPreview(const Json& value);
    void refreshHistogram(RampEditor* editor, const std::string& over);
    Json fixedWord() const;

    Document& document_;
    RebuildService& rebuilds_;
    Background& background_;
    Newest previewAsked_ = std::make_shared<std::atomic<int>>(0), histogramAsked_ = std::make_shared<std::atomic<int>>(0),
           changeAsked_ = std::make_shared<std::atomic<int>>(0), rangeAsked_ = std::make_shared<std::atomic<int>>(0);
    std::vector<std::string> nodes_;
    std::string node_;  ///< the last of them
    SettingSpec spec_;
    std::string kind_;
    int gesture_ = 0;
    bool dropping_ = false;
    DragName* name_;
    NoticeStrip* notice_;
    QHBoxLayout* head_;
    QVBoxLayout* body_;
    QToolButton* sourceButton_ = nullptr;
    FormulaEditor* formula_ = nullptr;
    SourcePreview* preview_ = nullptr;
    StrokesField* strokes_ = nullptr;
    LinesField* lines_ = nullptr;
    QToolButton* plane_ = nullptr;
    std::vector<std::function<void(const Json&)>> refreshers_;
};

}  // namespace seedloom::app
