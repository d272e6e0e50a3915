#pragma once
#include "core/technique/technique.h"

namespace mirolux {

/// Where the vertices of surfaces that bones or shapes bend are bent: once a frame into the vertex buffer, or by the
/// vertex shader of every pass that draws them.
enum class Skinning { none, compute, vertex };
/// None of a scene in which nothing bends.
Skinning skinning_of(const Scene& scene, const Setup& setup);

/// What bending a body once takes: its vertices, and the joints and shapes that are read for them.
struct BendWork {
    std::uint64_t vertices = 0, reads = 0;
};
BendWork bend_work(const Scene& scene, int object);

/// Work of a pass that draws these objects, where the vertex shader bends them.
void add_bending(const FrameInputs& inputs, int object, Work& work);

} // namespace mirolux
