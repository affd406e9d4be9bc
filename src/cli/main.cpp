#include "cli/Commands.h"

#include <csignal>
#include <iostream>

namespace {

std::atomic<bool> stop{false};

void onSignal(int) { stop = true; }

}  // namespace

int main(int argc, char** argv) {
    std::signal(SIGINT, onSignal);
    std::signal(SIGTERM, onSignal);
    std::ios::sync_with_stdio(false);
    return seedloom::runCommandLine({argv + 1, argv + argc}, std::cout, std::cerr, stop);
}
