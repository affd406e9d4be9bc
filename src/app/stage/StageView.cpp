#include "app/stage/StageView.h"

#include "app/look/Theme.h"

#include <cmath>

namespace seedloom::app {

StageInks stageInks() {
    const Colours& c = colours();
    return {c.stageTop, c.stageFoot, c.stageGrid, c.ink, currentTheme() == ThemeName::night ? QColor(20, 23, 28) : QColor(35, 43, 54)};
}

double gridStep(const StageCamera& camera) {
    const double wanted = camera.distance / 12;
    const double power = std::pow(10.0, std::floor(std::log10(std::max(wanted, 1e-9))));
    return wanted / power < 2 ? power * (wanted / power < 1.5 ? 1 : 2) : wanted / power < 5 ? power * 5 : power * 10;
}

}  // namespace seedloom::app
