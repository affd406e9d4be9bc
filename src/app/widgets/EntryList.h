#pragma once
// What was drawn, entry by entry: each can be chosen, left out (it is kept, but takes no part), and removed.
#include "fields/Source.h"

#include <QtWidgets/QListWidget>

#include <functional>
#include <optional>

namespace seedloom::app {

class EntryList : public QListWidget {
    Q_OBJECT

public:
    /// `nameOf`: what an entry is called, with its number from 1. `shown`: the same entry, left out or not.
    EntryList(std::function<QString(std::size_t number, const Json& entry)> nameOf, std::function<Json(const Json& entry, bool shown)> shown, QWidget* parent);
    /// The setting's value.
    void setEntries(const Json& entries);
    const Json& entries() const { return entries_; }
    /// The chosen entry, as the setting counts.
    std::optional<std::size_t> chosen() const;
    /// How many are left out.
    int hiddenCount() const;
    /// The chosen one; the last one where none is chosen.
    void removeChosen();

Q_SIGNALS:
    void entryChosen();
    void edited(const Json& entries);

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    void showRows();

    std::function<QString(std::size_t, const Json&)> nameOf_;
    std::function<Json(const Json&, bool)> shown_;
    Json entries_ = Json::array();
};

}  // namespace seedloom::app
