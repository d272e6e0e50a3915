#pragma once
#include "core/plan/frame_plan.h"

namespace mirolux {

/// Who uses a resource of a plan: passes by their places, in order.
struct Uses {
    std::vector<int> readers, writers;
};
Uses uses_of(const FramePlan& plan, const PlannedResource& resource);

/// Bytes of the resources that live at each pass; history and what is kept live on. Their largest is
/// FramePlan::bytesPeak.
std::vector<std::size_t> bytes_alive(const FramePlan& plan);

/// Names of the resources that live in the same memory, one after the other, without its own.
std::vector<std::string> shares_memory_with(const FramePlan& plan, const PlannedResource& resource);

/// How a resource differs from the other plan's of its name: empty if it does not; "not in B", "rgba16f, not rgba32f".
/// other: what the other plan is called.
std::string difference_from(const FramePlan& plan, const PlannedResource& resource, const std::string& other);
/// The same for a pass: not there, or reads or writes other resources.
std::string difference_from(const FramePlan& plan, const PlannedPass& pass, const std::string& other);

/// The pass that a layer is of: the one that writes its resource, shades its light, or lays its surfaces. Empty: none
/// of this plan.
std::string pass_of(const FramePlan& plan, const LayerInfo& layer);

/// Whether a pass still uses the resource when `pass` has run: an index within its life.
bool lives_at(const PlannedResource& resource, int pass);

} // namespace mirolux
