#include "geometry/Json.h"

template class nlohmann::basic_json<nlohmann::ordered_map>;
template class std::map<std::string, nlohmann::ordered_json>;
template class std::vector<nlohmann::ordered_json>;
