#pragma once
// A JSON object that copies share until one of them is changed: documents are copied with every edit, and settings may hold thousands of
// painted points.
#include "fields/Source.h"

#include <memory>

namespace seedloom {

/// Reads like a Json object. Whatever can change it makes it its own first. Equality is cheap where the storage is shared.
class SharedJson {
public:
    SharedJson() : shared_(none()) {}
    SharedJson(Json json) : shared_(std::make_shared<Json>(std::move(json))) {}
    SharedJson(Json::initializer_list_t list) : SharedJson(Json(list)) {}

    const Json& get() const { return *shared_; }
    operator const Json&() const { return *shared_; }
    Json& edit() {
        if (shared_.use_count() != 1) shared_ = std::make_shared<Json>(*shared_);
        return *shared_;
    }

    bool contains(const std::string& key) const { return shared_->contains(key); }
    bool empty() const { return shared_->empty(); }
    std::size_t size() const { return shared_->size(); }
    Json::const_iterator find(const std::string& key) const { return shared_->find(key); }
    Json::const_iterator begin() const { return shared_->cbegin(); }
    Json::const_iterator end() const { return shared_->cend(); }
    const Json& at(const std::string& key) const { return shared_->at(key); }
    const Json& operator[](const std::string& key) const { return (*std::as_const(*shared_).find(key)); }
    Json& operator[](const std::string& key) { return edit()[key]; }
    template <class T> T value(const std::string& key, const T& otherwise) const { return shared_->value(key, otherwise); }
    void erase(const std::string& key) {
        if (contains(key)) edit().erase(key);
    }
    auto items() const { return std::as_const(*shared_).items(); }

    /// In which order they were set does not count.
    friend bool operator==(const SharedJson& a, const SharedJson& b) {
        if (a.shared_ == b.shared_) return true;
        if (a.size() != b.size()) return false;
        for (const auto& [key, value] : a.items())
            if (const auto other = b.find(key); other == b.end() || *other != value) return false;
        return true;
    }

private:
    /// All that are empty share one object, which nobody is the only user of.
    static std::shared_ptr<Json> none() {
        static const std::shared_ptr<Json> object = std::make_shared<Json>(Json::object());
        return object;
    }
    std::shared_ptr<Json> shared_;
};

}  // namespace seedloom
