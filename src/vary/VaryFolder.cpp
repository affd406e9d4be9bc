#include "vary/VaryFolder.h"

#include "files/FileIo.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cerrno>
#include <charconv>

#include <fcntl.h>
#include <unistd.h>

namespace seedloom {

namespace {

namespace fs = std::filesystem;

constexpr const char *kRecords = "rows", *kPictures = "pictures";
constexpr std::size_t kLargestRecord = std::size_t(16) << 20;

class FileClaim : public VaryFolder::Claim {
public:
    explicit FileClaim(int handle) : handle_(handle) {}
    ~FileClaim() override {
        if (handle_ >= 0) close(handle_);
    }

private:
    int handle_;
};

std::string fileWord(const Json& value) {
    std::string out = value.is_string() ? value.get<std::string>() : value.dump();
    for (char& c : out)
        if (!std::isalnum(static_cast<unsigned char>(c)) && c != '.' && c != '_' && c != '-' && static_cast<unsigned char>(c) < 0x80) c = '-';
    return out;
}

}  // namespace

Result<VaryFolder> VaryFolder::open(const fs::path& folder) {
    std::error_code error;
    for (const char* part : {kRecords, kPictures}) {
        fs::create_directories(folder / part, error);
        if (error) return Error{"file.write", fmt::format("The folder '{}' can't be made: {}.", (folder / part).string(), error.message())};
    }
    return VaryFolder(folder);
}

fs::path VaryFolder::record(std::size_t number) const { return path_ / kRecords / fmt::format("{:05}.json", number); }

std::string VaryFolder::pictureName(std::size_t number) const { return fmt::format("{}/{:05}.png", kPictures, number); }

std::optional<VaryRow> VaryFolder::done(std::size_t number) const {
    const auto bytes = readFile(record(number), kLargestRecord);
    return bytes ? rowFromJson(Json::parse(*bytes, nullptr, false)) : std::nullopt;
}

std::vector<std::size_t> VaryFolder::numbers() const {
    std::vector<std::size_t> out;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(path_ / kRecords, error)) {
        const std::string stem = entry.path().stem().string();
        std::size_t number = 0;
        const auto [end, wrong] = std::from_chars(stem.data(), stem.data() + stem.size(), number);
        if (entry.path().extension() == ".json" && wrong == std::errc() && end == stem.data() + stem.size()) out.push_back(number);
    }
    std::sort(out.begin(), out.end());
    return out;
}

std::optional<Error> VaryFolder::finish(const VaryRow& row) const {
    return writeFileAtomically(record(row.number), rowJson(row).dump(1, ' ', false, Json::error_handler_t::replace));
}

std::unique_ptr<VaryFolder::Claim> VaryFolder::claim(std::size_t number) const {
    const int handle = ::open((path_ / kRecords / "claims").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    // One byte of that file for each row. Where it can't be made, nothing else can be written either, and that will be said.
    struct flock row {};
    row.l_type = F_WRLCK, row.l_whence = SEEK_SET;
    row.l_start = off_t(number), row.l_len = 1;
    if (handle >= 0 && fcntl(handle, F_OFD_SETLK, &row) != 0 && (errno == EAGAIN || errno == EACCES)) {
        close(handle);
        return nullptr;
    }
    return std::make_unique<FileClaim>(handle);
}

Result<std::string> variationName(const std::string& pattern, const Loom& loom, std::size_t number, const Variation& variation, const ControlValues& values) {
    std::string out;
    bool numbered = false;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        const auto end = pattern[i] == '{' ? pattern.find('}', i) : std::string::npos;
        if (end == std::string::npos) {
            out += fileWord(std::string(1, pattern[i]));
            continue;
        }
        const std::string word = pattern.substr(i + 1, end - i - 1);
        i = end;
        if (word == "n") out += fmt::format("{:04}", number), numbered = true;
        else if (word == "name") out += fileWord(loom.name.empty() ? Json("variation") : Json(loom.name));
        else if (word == "preset") out += fileWord(variation.preset);
        else if (const auto it = values.find(word); it != values.end()) out += fileWord(it->second);
        else return Error{"vary.pattern", fmt::format("'{{{}}}' is no word of a name. There are {{name}}, {{n}}, {{preset}}, and the ids of controls.", word)};
    }
    if (!numbered) return Error{"vary.pattern", "The pattern of names needs {n}, or files would overwrite each other."};
    return out;
}

}  // namespace seedloom
