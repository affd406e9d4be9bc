#pragma once
// A field over a list, opened over the window: the keyboard stays in the field and walks through the list. What is listed and what taking it
// does is up to who derives from it.
#include <QtCore/QPointer>
#include <QtWidgets/QFrame>

class QLineEdit;
class QListWidget;
class QVBoxLayout;

namespace seedloom::app {

class SearchPopup : public QFrame {
    Q_OBJECT

public:
    /// It goes with its owner, wherever it was opened.
    explicit SearchPopup(QWidget* owner);
    QLineEdit* field() const { return field_; }
    QListWidget* list() const { return list_; }

protected:
    /// Lists what fits the field's text, and gives the popup its size and place.
    virtual void fill() = 0;
    /// Uses what is chosen in the list; nothing where that can't be used.
    virtual void take() = 0;

    /// Shows the popup over the owner's window with `typed` in its field.
    void openWith(const QString& typed);
    void close();
    /// A line that can't be chosen, where nothing was found.
    void addNothing(const QString& text);
    QWidget* owner() const { return owner_; }
    QVBoxLayout* column() const { return column_; }
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    QPointer<QWidget> owner_;
    QLineEdit* field_;
    QListWidget* list_;
    QVBoxLayout* column_;
};

}  // namespace seedloom::app
