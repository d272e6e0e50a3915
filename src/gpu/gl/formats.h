#pragma once
#include "core/technique/resource.h"
#include <epoxy/gl.h>

namespace mirolux::gpu {

/// The device's name for a format; words live in buffers and have none.
inline GLenum gl_format(Format format) {
    static constexpr GLenum names[] = {GL_RGBA8,
                                       GL_R8,
                                       GL_RG8,
                                       GL_RG16,
                                       GL_R32F,
                                       GL_RG32F,
                                       GL_RGBA16F,
                                       GL_RGBA32F,
                                       GL_RGB16F,
                                       GL_RGB9_E5,
                                       GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT,
                                       GL_DEPTH_COMPONENT32F,
                                       GL_DEPTH32F_STENCIL8,
                                       GL_NONE};
    return names[static_cast<std::size_t>(format)];
}

inline bool is_depth(Format format) {
    return format == Format::depth32f || format == Format::depth32fStencil8;
}

} // namespace mirolux::gpu
