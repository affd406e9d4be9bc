#include "app/session/VaryMemory.h"

#include "files/FileIo.h"
#include "geometry/Digest.h"

#include <QtCore/QStandardPaths>

namespace seedloom::app {

namespace {

namespace fs = std::filesystem;

constexpr std::size_t kLargest = std::size_t(64) << 20;

fs::path memoryOf(const Document& document) {
    const std::string of = document.file().empty() ? "name:" + document.loom().name : "file:" + fs::absolute(document.file()).string();
    if (of == "name:") return {};
    Digester digester;
    digester.add(of);
    const fs::path folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString();
    return folder / "vary" / (digester.finish().hex() + ".json");
}

}  // namespace

Json rememberedVary(const Document& document) {
    const fs::path file = memoryOf(document);
    std::error_code error;
    if (file.empty() || !fs::exists(file, error)) return {};
    if (!document.file().empty() && fs::last_write_time(document.file(), error) > fs::last_write_time(file, error)) {
        // What this program wrote there is the same as what it keeps; anything else comes from somebody who knew more.
        const Json own = document.view().is_object() ? document.view().value("vary", Json()) : Json();
        if (!own.is_null()) return {};
    }
    const auto bytes = readFile(file, kLargest);
    Json out = bytes ? Json::parse(*bytes, nullptr, false) : Json();
    return out.is_object() ? out : Json();
}

void rememberVary(const Document& document, const Json& varied) {
    const fs::path file = memoryOf(document);
    if (file.empty()) return;
    std::error_code error;
    fs::create_directories(file.parent_path(), error);
    // Where it can't be written it is not there next time; the document itself is not touched.
    (void)writeFileAtomically(file, varied.dump(1, ' ', false, Json::error_handler_t::replace));
}

}  // namespace seedloom::app
