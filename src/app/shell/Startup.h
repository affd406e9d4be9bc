#pragma once

namespace seedloom::app {

/// What must be set before the application object exists: surface format, shared contexts, fractions of scale. False, with a message on
/// standard error, where there is no display to show a window on.
bool prepareDisplay(int argc, char** argv);
/// Names under which settings are kept.
void nameApplication();

}  // namespace seedloom::app
