#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/gl/shader_source.h"

namespace mirolux::gpu {

/// The files that every shader of a frame may include: generated/parameters.glsl, counters.glsl and slots.glsl.
/// parameters and counters are the same for every plan; slots.glsl calls what the plan's techniques feed.
GeneratedFiles generated_files(const FramePlan& plan);

/// The same with generated/layers.glsl, which writes these layers to one target each, in their order. At most eight.
GeneratedFiles with_layers(const GeneratedFiles& files, const std::vector<const LayerInfo*>& layers);

/// The same with generated/block_layer.glsl, which holds the function of a Blocks stage's layer.
GeneratedFiles with_block_layer(const GeneratedFiles& files, const LayerInfo& layer);

/// Values of parameters in the order of the device's buffer; those that the plan does not set are 0.
std::vector<glm::vec4> parameter_values(const FramePlan& plan);

} // namespace mirolux::gpu
