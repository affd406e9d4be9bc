#pragma once
// The user guide inside the application: chapters and a search at the left, the page at the right.
#include <QtWidgets/QDialog>

class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace seedloom::app {

class HelpWindow : public QDialog {
    Q_OBJECT

public:
    explicit HelpWindow(QWidget* parent);
    /// Shows a page, scrolled to a heading or, where there is none of that text, to where it first occurs.
    void showPage(const QString& page, const QString& at = {});
    const QString& shownPage() const { return page_; }
    QLineEdit* search() const { return search_; }
    QListWidget* list() const { return list_; }
    QTextBrowser* text() const { return text_; }

private:
    void fill();
    void follow(const QString& link);
    void scrollTo(const QString& at);

    QString page_;
    QLineEdit* search_;
    QListWidget* list_;
    QTextBrowser* text_;
};

}  // namespace seedloom::app
