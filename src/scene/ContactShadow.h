#pragma once
// The soft shadow where a model meets the ground.
#include "scene/DrawScene.h"

namespace seedloom {

/// Triangles on the ground (y = 0), whose `uv.x` says how dark: 1 under what touches it, less under what stands higher, and fading beyond. Empty for what is
/// high above the ground, reaches far below it, or has no faces. Own: heights drawn into a grid, and evened out.
/// `bounds` are its own, with copies; `triangles`: three corners of it each.
std::vector<DrawScene::Vertex> contactShadow(const Geometry& geometry, const Bounds& bounds, const std::vector<Index>& triangles);

}  // namespace seedloom
