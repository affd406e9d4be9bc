#pragma once
#include "files/FileSource.h"
#include "graph/Loom.h"

namespace seedloom {

/// What becomes of a file in a new loom.
enum class ImportedAs : std::uint8_t {
    mesh,
    curves,  ///< the lines of a drawing as they are
    solid,   ///< its closed lines filled and thick
    relief,  ///< a sheet that is high where a picture is white
    colours  ///< a sheet with the colours of a picture
};

struct ImportedFile {
    std::string file;
    ImportedAs as = ImportedAs::mesh;
};

/// What a file of this ending can become, in the order in which it is offered; empty where such files can't be read.
std::vector<ImportedAs> importsOf(const std::filesystem::path& file);
/// What keeps a drawing or a picture from becoming anything. Meshes are read when they are rebuilt, and say then what is wrong.
std::optional<Error> importProblem(const std::filesystem::path& file, const FileSource& files = *diskFiles());

/// A new loom that imports files, named after the first: a chain of nodes for each, merged where there are several, and an output.
Loom loomImporting(const std::vector<ImportedFile>& imported, const FileSource& files = *diskFiles());

}  // namespace seedloom
