#pragma once
#include <QtWidgets/QWidget>

#include <string>
#include <vector>

class QLineEdit;

namespace seedloom::app {

/// A path that is typed or chosen; files beside the document are written from its folder, so that both can move together.
class FileField : public QWidget {
    Q_OBJECT

public:
    /// `endings` that may be chosen; empty: those of meshes.
    FileField(const std::vector<std::string>& endings, QString folder, QWidget* parent);
    /// Leaves alone what is being typed.
    void setPath(const QString& path);
    QLineEdit* field() const { return field_; }

Q_SIGNALS:
    void edited(const QString& path);

private:
    void choose(const QString& endings);
    void take(const QString& path);
    QString folder_, path_;
    QLineEdit* field_;
};

}  // namespace seedloom::app
