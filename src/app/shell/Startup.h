#pragma once

class QCoreApplication;

namespace seedloom::app {

/// What must be set before the application object exists: surface format, shared contexts, fractions of scale. False, with a message on
/// standard error, where there is no display to show a window on.
bool prepareDisplay(int argc, char** argv);
/// Makes "3 edges" and "1 edge" of "%n edge(s)" where no translation is loaded.
void installEnglish(QCoreApplication& application);
/// Names under which settings are kept.
void nameApplication();

}  // namespace seedloom::app
