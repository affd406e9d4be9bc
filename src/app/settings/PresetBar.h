#pragma once
#include "app/session/PresetPictures.h"

#include <QtWidgets/QWidget>

class QComboBox;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QMenu;
class QToolButton;

namespace seedloom::app {

class Slider;

/// The presets of a loom: choosing one, keeping values under a name, renaming, ordering, and going from one to another by a slider.
class PresetBar : public QWidget {
    Q_OBJECT

public:
    explicit PresetBar(Document& document, QWidget* parent);
    /// The preset that the values are compared with: the one in use, or chosen last; null where there is none.
    const Preset* compared() const;
    /// Asks for a name and keeps the values in use under it.
    void askForName();
    /// Shows a slider from the compared preset to another.
    void startBlend(const std::string& to);
    QComboBox* presets() const { return presets_; }
    PresetPictures& pictures() { return pictures_; }
    QLineEdit* name() const { return name_; }
    Slider* blend() const { return blend_; }
    /// What can be done with presets now.
    QMenu* makeMenu();

Q_SIGNALS:
    void comparedChanged();

private:
    void refresh();
    void choose(int index);
    void showPictures();
    void endBlend();
    void ask(const QString& placeholder, const QString& text, std::function<void(const std::string&)> take);
    void addMoves(QMenu* menu, const std::string& preset);

    Document& document_;
    PresetPictures pictures_;
    std::string compared_, from_, to_;
    QComboBox* presets_;
    QToolButton* more_;
    QLineEdit* name_;
    std::function<void(const std::string&)> taken_;
    QWidget* blendRow_;
    QLabel *fromName_, *toName_;
    Slider* blend_;
    int gesture_ = 0;
};

}  // namespace seedloom::app
