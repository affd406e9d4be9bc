#include "app/workplaces/Workplaces.h"

#include "app/workplaces/BuildWorkplace.h"

namespace seedloom::app {

std::vector<std::unique_ptr<Workplace>> makeWorkplaces(Session& session) {
    std::vector<std::unique_ptr<Workplace>> out;
    out.push_back(std::make_unique<BuildWorkplace>(session));
    return out;
}

}  // namespace seedloom::app
