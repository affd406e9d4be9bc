#pragma once
// Paths in a loom that start from its folder.
#include "graph/Edit.h"

#include <filesystem>
#include <functional>
#include <set>

namespace seedloom {

/// Writes relative paths anew so that files are found from folder `to` where they were found from `from`: those in settings of the type file, inside of
/// containers as well, in the controls that such settings take them from, and of pictures of choices. Absolute paths stay. Both folders must be absolute. What
/// it does to one value depends on nothing else, so a document and the edits of its history can be moved apart from each other.
class PathMove {
public:
    /// `loom` tells which controls name files.
    PathMove(const Loom& loom, const std::filesystem::path& from, const std::filesystem::path& to);
    /// The same with any change of a path as it is written, absolute ones included; empty ones are left alone.
    PathMove(const Loom& loom, std::function<std::string(const std::string& written)> rewrite);
    Loom operator()(Loom loom) const;
    void apply(Edit& edit) const;

private:
    void move(Json& path) const;
    void move(Node& node) const;
    void move(Control& control) const;
    void move(Preset& preset) const;
    Loom inner(Loom loom) const;

    std::function<std::string(const std::string&)> rewrite_;
    std::set<std::string> controls_;
};

/// The loom as it must be written in folder `to`.
Loom withPathsMoved(Loom loom, const std::filesystem::path& from, const std::filesystem::path& to);

}  // namespace seedloom
