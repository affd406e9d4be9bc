#pragma once
// What JSON is read into, with keys in the order of the file. Its functions are compiled once, in Json.cpp, and not again in each source that uses them:
// they were a tenth of all compiling.
#include <nlohmann/json.hpp>

#include <map>
#include <string>
#include <vector>

extern template class nlohmann::basic_json<nlohmann::ordered_map>;
extern template class std::map<std::string, nlohmann::ordered_json>;
extern template class std::vector<nlohmann::ordered_json>;

namespace seedloom {

using Json = nlohmann::ordered_json;

}  // namespace seedloom
