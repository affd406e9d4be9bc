#pragma once

/// Adds a benchmark for every operator of the families make, curve, surface and deform.
void registerOperators();
