#pragma once
// Entries of a store by their key, with the memory that they take together. The order in which they go is their owner's affair.
#include "geometry/Digest.h"
#include "graph/SharedBytes.h"

#include <list>

namespace seedloom {

/// `Entry` has a `key` (Digest) and `held` (HeldParts). Not thread-safe.
template <class Entry> class HeldEntries {
public:
    using List = std::list<Entry>;
    using Place = typename List::iterator;

    /// Null where there is none.
    const Place* find(const Digest& key) const {
        const auto it = places_.find(key);
        return it == places_.end() ? nullptr : &it->second;
    }
    /// Takes in the one entry of `one`, which may then be moved into another list. False where there is one of its key. Nothing has changed where it throws.
    bool add(List& one) {
        const auto [it, fresh] = places_.try_emplace(one.front().key, one.begin());
        if (!fresh) return false;
        try {
            bytes_.add(one.front().held);
        } catch (...) {
            places_.erase(it);
            throw;
        }
        return true;
    }
    /// Moves it out of `from` to `dead`, to be freed when nobody waits.
    void remove(Place entry, List& from, List& dead) {
        bytes_.remove(entry->held);
        places_.erase(entry->key);
        dead.splice(dead.end(), from, entry);
    }
    std::size_t bytes() const { return bytes_.bytes(); }
    std::size_t count() const { return places_.size(); }

private:
    std::unordered_map<Digest, Place, DigestHash> places_;
    SharedBytes bytes_;
};

}  // namespace seedloom
