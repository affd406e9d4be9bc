#pragma once
// The pen of a drawn curve: begins drawing on the stage, and lists the lines; each can be chosen, left out, and removed.
#include "fields/Source.h"

#include <QtWidgets/QWidget>

#include <optional>

class QLabel;
class QToolButton;

namespace seedloom::app {

class EntryList;

class LinesField : public QWidget {
    Q_OBJECT

public:
    explicit LinesField(QWidget* parent = nullptr);
    /// The setting's value.
    void setLines(const Json& lines);
    bool drawing() const;
    void setDrawing(bool on);
    /// The chosen line, as the setting counts.
    std::optional<std::size_t> chosen() const;
    /// The same as a curve of the result, which has only lines that are not left out; nothing for one that is.
    std::optional<std::size_t> chosenCurve() const;
    QToolButton* drawButton() const { return draw_; }
    EntryList* list() const { return list_; }

Q_SIGNALS:
    void drawingChanged();
    void lineChosen();
    void edited(const Json& lines);

private:
    const Json& lines() const;
    void showCount();

    QToolButton *draw_, *remove_, *clear_;
    QLabel* count_;
    EntryList* list_;
};

}  // namespace seedloom::app
