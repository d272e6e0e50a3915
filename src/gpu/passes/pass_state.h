#pragma once
#include "core/plan/view.h"
#include <epoxy/gl.h>

namespace mirolux::gpu {

/// All fixed-function state that a draw depends on. apply() sets each of it, so that nothing leans on what ran before.
struct PassState {
    GLuint framebuffer = 0;
    int width = 0, height = 0; // of the viewport
    bool depthTest = true, depthWrite = true;
    GLenum depthFunc = GL_GREATER; // reversed depth
    bool colorWrite = true;
    struct Blend {
        bool on = false;
        GLenum source = GL_ONE, target = GL_ZERO, sourceAlpha = GL_ONE, targetAlpha = GL_ZERO;
        GLenum equation = GL_FUNC_ADD;
    } blend;
    struct Stencil {
        bool on = false;
        GLenum func = GL_ALWAYS;
        GLint reference = 0;
        GLenum depthFailBack = GL_KEEP, depthFailFront = GL_KEEP, pass = GL_KEEP, depthFail = GL_KEEP;
    } stencil;
    PixelRect scissor{};   // rows from the top; empty: none
    GLenum cull = GL_NONE; // faces that are left out

    void apply() const;

    /// Adds what is drawn to what is there.
    static Blend adding() { return {true, GL_ONE, GL_ONE, GL_ONE, GL_ONE}; }
    /// Lets each pixel pass once for `mark`: where surfaces share one depth exactly, GL_EQUAL alone would shade them
    /// all.
    static Stencil once_per_pixel(int mark) { return {true, GL_NOTEQUAL, mark, GL_KEEP, GL_KEEP, GL_REPLACE, GL_KEEP}; }
};

} // namespace mirolux::gpu
