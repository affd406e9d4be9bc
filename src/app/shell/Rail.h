#pragma once
#include <QtWidgets/QWidget>

class QToolButton;

namespace seedloom::app {

/// The workplaces at the left edge, help and settings at its foot.
class Rail : public QWidget {
    Q_OBJECT

public:
    explicit Rail(QWidget* parent = nullptr);

Q_SIGNALS:
    void helpWanted();
    void settingsWanted();

protected:
    void paintEvent(QPaintEvent*) override;

private:
    void fitWords();
    QToolButton* add(const QString& iconName, const QString& text, const QString& tip);
};

}  // namespace seedloom::app
