#pragma once
// What varies: a row for each control, how many there are to be, and by which seed.
#include "vary/VaryPlan.h"

#include <QtWidgets/QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QSpinBox;
class QVBoxLayout;

namespace seedloom::app {

class VaryPanel : public QWidget {
    Q_OBJECT

public:
    explicit VaryPanel(QWidget* parent);
    /// Shows a plan for this loom; `folder` is where paths start from.
    void show(const std::shared_ptr<const Loom>& loom, const VaryPlan& plan, const QString& folder);
    /// Says why it makes nothing; an empty text where it does.
    void setProblem(const QString& text);
    /// What one of them takes, and how many are made at once; 0: not known yet.
    void setCost(double ms, int jobs);
    using QWidget::show;

    /// How a control varies, by its id; null where there is no such row.
    QComboBox* how(const std::string& control) const;
    /// Whether the presets do; null where the loom has none.
    QComboBox* presets() const { return presets_; }
    QSpinBox* count() const { return count_; }
    QSpinBox* seed() const { return seed_; }
    QPushButton* allButton() const { return all_; }
    QPushButton* numberButton() const { return number_; }
    QPushButton* everything() const { return everything_; }
    QPushButton* nothing() const { return nothing_; }
    QString sum() const;
    QString problem() const;

Q_SIGNALS:
    void edited(const VaryPlan& plan);

private:
    void build();
    void addPresets(QVBoxLayout* column, QWidget* page);
    void addControl(const Control& control, QVBoxLayout* column, QWidget* page);
    QWidget* makeEditor(const Control& control, const VariedControl& varied, QWidget* parent);
    QWidget* makeList(const Control& control, const VariedControl& varied, QWidget* parent);
    QWidget* makeChoices(const Control& control, const VariedControl& varied, QWidget* parent);
    QWidget* makeRange(const Control& control, const VariedControl& varied, QWidget* parent);
    QWidget* makeFoot();
    void setHow(const std::string& control, int how);
    void change(const std::string& control, const std::function<void(VariedControl&)>& change);
    void take(VaryPlan plan, bool rebuild);
    void showCount();

    std::shared_ptr<const Loom> loom_;
    VaryPlan plan_;
    QString folder_;
    double ms_ = 0;
    int jobs_ = 1;
    std::map<std::string, QComboBox*> hows_;
    QComboBox* presets_ = nullptr;
    QScrollArea* area_;
    QPushButton *all_, *number_, *everything_, *nothing_;
    QSpinBox *count_, *seed_;
    QLabel *sum_, *cost_, *problem_;
};

}  // namespace seedloom::app
