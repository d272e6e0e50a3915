#pragma once
#include "core/image/image.h"
#include <epoxy/gl.h>

namespace mirolux::gpu {

/// A colour attachment's values, rows from the top; `channels` of them, 1 to 4. fromTop: the device's rows are so too.
FloatImage read_floats(GLuint framebuffer, GLenum attachment, int width, int height, int channels,
                       bool fromTop = false);
/// Distance along the view axis in metres of a reversed depth, 0 where there is no surface; near 0: depths as they
/// are held.
FloatImage read_depth(GLuint framebuffer, float near, int width, int height);
/// Marks of a stencil, 0 to 255.
FloatImage read_stencil(GLuint framebuffer, int width, int height);

} // namespace mirolux::gpu
