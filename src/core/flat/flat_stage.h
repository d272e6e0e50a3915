#pragma once
#include "core/flat/flat_light.h"
#include "core/technique/plan_builder.h"

// What the ways of lighting a flat stage have in common.
namespace mirolux::flat {

/// `flat.kind`.
enum class Way { cut, mask, compute, grade, cascades };
Way way_of(const Setup& setup);
/// `flat.shadow`, as the way takes it: fans and quads are drawn, so that a kernel has none; light of cascades travels
/// by itself.
enum class Shadow { none, polygon, quads, polar, field, march };
Shadow shadow_of(const Setup& setup);
/// `mask.blend`.
Blend blend_of(const Setup& setup);
/// Pixels of the picture along one of the mask's; a kernel's is whole.
int mask_scale(const Setup& setup);

/// True if something of the frame asks what a pixel shows: its normal, layer, and whether shadows fall on it.
bool needs_surface(const FrameInputs& inputs);
/// True if what a light sees is made once and kept: it does not move, and ends where it ends by itself.
bool keeps_shadow(const FrameInputs& inputs, const Light& light);
/// True if there are sprites that shadows do not fall on.
bool lights_casters(const World& world);
/// True if some sheet of the scene shines by itself.
bool has_glow(const World& world);

/// How normals shape light (`flat.normals` and what hangs on it).
Sheen sheen_of(const Setup& setup);

/// What the last pass of a way reads beside its own targets, and the keys that shape every way.
std::vector<std::string> shown_reads(const FrameInputs& inputs, std::vector<std::string> own);
std::vector<std::string> flat_keys(std::vector<std::string> own);

/// A target in which lights are joined: its name, and what stands in it before the first.
ResourceSpec light_target(const FrameInputs& inputs, const char* name, const char* sampler);
/// A pass that draws each light over what it sees into `target`.
PlannedPass lights_pass(const FrameInputs& inputs, const char* name, const char* target, std::string what,
                        std::vector<std::string> keys);
/// The last pass: the scene with its light, into "scene".
PlannedPass shown_pass(const FrameInputs& inputs, const char* name, std::vector<std::string> reads, std::string what,
                       std::vector<std::string> keys);
/// What a device pays for them.
void price_lights_pass(const FramePlan& plan, const Work& work, CostTerms& terms);
void price_shown_pass(const FramePlan& plan, const Work& work, double operations, CostTerms& terms);

} // namespace mirolux::flat
