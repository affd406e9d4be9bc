#include "app/session/Doorbell.h"

#include <sys/eventfd.h>
#include <unistd.h>

#include <cstdint>
#include <stdexcept>

namespace seedloom::app {

namespace {

int openHandle() {
    const int handle = eventfd(0, EFD_NONBLOCK | EFD_CLOEXEC);
    if (handle < 0) throw std::runtime_error("no event handle is left");
    return handle;
}

}  // namespace

Doorbell::Doorbell(QObject* parent) : QObject(parent), handle_(openHandle()), notifier_(handle_, QSocketNotifier::Read) {
    connect(&notifier_, &QSocketNotifier::activated, this, [this] {
        std::uint64_t times = 0;
        if (read(handle_, &times, sizeof times) == sizeof times) Q_EMIT rung();
    });
}

Doorbell::~Doorbell() {
    notifier_.setEnabled(false);
    close(handle_);
}

void Doorbell::ring() {
    // Fails only where the counter is full, and then the bell has long been rung.
    const std::uint64_t once = 1;
    [[maybe_unused]] const auto written = write(handle_, &once, sizeof once);
}

}  // namespace seedloom::app
