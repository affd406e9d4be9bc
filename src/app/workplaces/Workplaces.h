#pragma once
// The one table of workplaces, in the order of the rail.
#include "app/workplaces/Workplace.h"

#include <memory>
#include <vector>

namespace seedloom::app {

std::vector<std::unique_ptr<Workplace>> makeWorkplaces(Session& session);

}  // namespace seedloom::app
