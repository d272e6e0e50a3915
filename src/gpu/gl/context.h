#pragma once
#include "core/base/error.h"
#include <epoxy/egl.h>
#include <epoxy/gl.h>
#include <memory>
#include <string>

namespace mirolux::gpu {

/// An OpenGL 4.5 core context without a window, current on the thread that made it: the surfaceless platform first,
/// then the default display with a small pbuffer. Errors say which step the driver refused.
class Context {
public:
    /// software: ask Mesa for its software rasteriser even where there is a GPU (must be the process's first context).
    static Result<std::unique_ptr<Context>> create(bool software = false);
    ~Context();
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;

    /// Makes it current on this thread again, should another context of the process have taken over.
    void make_current();

    /// The driver's newest error message since the last call, or empty. Collected by KHR_debug.
    std::string take_message();
    /// Off while time is taken: the driver then spends nothing on messages, and an error is known by its number only.
    void listen_closely(bool on);

private:
    Context() = default;
    static void GLAPIENTRY on_message(GLenum source, GLenum type, GLuint id, GLenum severity, GLsizei length,
                                      const GLchar* text, const void* self);
    EGLDisplay display_ = EGL_NO_DISPLAY;
    EGLContext context_ = EGL_NO_CONTEXT;
    EGLSurface surface_ = EGL_NO_SURFACE;
    std::string message_;
};

} // namespace mirolux::gpu
