#include "app/workplaces/Workplaces.h"

#include "app/workplaces/BuildWorkplace.h"
#include "app/workplaces/VaryWorkplace.h"

namespace seedloom::app {

std::vector<std::unique_ptr<Workplace>> makeWorkplaces(Session& session) {
    std::vector<std::unique_ptr<Workplace>> out;
    out.push_back(std::make_unique<BuildWorkplace>(session));
    out.push_back(std::make_unique<VaryWorkplace>(session));
    return out;
}

}  // namespace seedloom::app
