#pragma once
#include "core/plan/frame_plan.h"
#include "gpu/passes/pass_frame.h"

// Textures of what was computed beforehand: filled from bytes when they change.
namespace mirolux::gpu {

/// One layer of a resource that is an array, or all of one that is none. Rows in the image's order.
void fill_layer(const PlannedResource& r, GLuint texture, int layer, GLenum format, GLenum type,
                const std::vector<std::uint8_t>& bytes);
/// The resource as an array, with one layer too; linear between texels.
GLuint array_of(PassFrame& f, const std::string& resource);

/// True once for each content of a resource: it was made anew, or `content` is another. key: whose memory that is.
bool needs_filling(PassFrame& f, const std::string& resource, std::shared_ptr<const void> content);

} // namespace mirolux::gpu
