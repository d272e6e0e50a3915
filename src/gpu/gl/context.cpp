#include "gpu/gl/context.h"
#include <cstdlib>

namespace mirolux::gpu {

Result<std::unique_ptr<Context>> Context::create(bool software) {
    const std::string remedy =
        "Install a driver with OpenGL 4.5 (Mesa's software renderer will do: package libgl1-mesa-dri).";
    if (software) setenv("LIBGL_ALWAYS_SOFTWARE", "1", 1);
    auto context = std::unique_ptr<Context>(new Context);
    std::string tried;
    for (const bool surfaceless : {true, false}) {
        const std::string name = surfaceless ? "surfaceless platform" : "default display";
        EGLDisplay display = EGL_NO_DISPLAY;
        if (!surfaceless)
            display = eglGetDisplay(EGL_DEFAULT_DISPLAY);
        else if (epoxy_has_egl_extension(EGL_NO_DISPLAY, "EGL_EXT_platform_base") &&
                 epoxy_has_egl_extension(EGL_NO_DISPLAY, "EGL_MESA_platform_surfaceless"))
            display = eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, nullptr, nullptr);
        if (display == EGL_NO_DISPLAY || !eglInitialize(display, nullptr, nullptr)) {
            tried += name + ": no display; ";
            continue;
        }
        if (!eglBindAPI(EGL_OPENGL_API)) {
            tried += name + ": no desktop OpenGL; ";
            eglTerminate(display);
            continue;
        }
        const EGLint configAttributes[] = {EGL_SURFACE_TYPE, EGL_PBUFFER_BIT, EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT,
                                           EGL_NONE};
        EGLConfig config = nullptr;
        EGLint count = 0;
        if (!eglChooseConfig(display, configAttributes, &config, 1, &count) || count == 0) {
            tried += name + ": no configuration; ";
            eglTerminate(display);
            continue;
        }
        const EGLint contextAttributes[] = {EGL_CONTEXT_MAJOR_VERSION,
                                            4,
                                            EGL_CONTEXT_MINOR_VERSION,
                                            5,
                                            EGL_CONTEXT_OPENGL_PROFILE_MASK,
                                            EGL_CONTEXT_OPENGL_CORE_PROFILE_BIT,
                                            EGL_CONTEXT_OPENGL_DEBUG,
                                            EGL_TRUE,
                                            EGL_NONE};
        context->context_ = eglCreateContext(display, config, EGL_NO_CONTEXT, contextAttributes);
        if (context->context_ == EGL_NO_CONTEXT) {
            tried += name + ": no OpenGL 4.5 core context; ";
            eglTerminate(display);
            continue;
        }
        context->display_ = display;
        if (!surfaceless) {
            const EGLint size[] = {EGL_WIDTH, 16, EGL_HEIGHT, 16, EGL_NONE};
            context->surface_ = eglCreatePbufferSurface(display, config, size);
        }
        if (!eglMakeCurrent(display, context->surface_, context->surface_, context->context_)) {
            tried += name + ": context could not be made current; ";
            context = std::unique_ptr<Context>(new Context);
            continue;
        }
        if (epoxy_gl_version() < 45)
            return fail("the device offers OpenGL " + std::to_string(epoxy_gl_version() / 10) + "." +
                            std::to_string(epoxy_gl_version() % 10) + ", 4.5 is needed",
                        "", remedy);
        glEnable(GL_DEBUG_OUTPUT);
        glEnable(GL_DEBUG_OUTPUT_SYNCHRONOUS);
        glDebugMessageCallback(&Context::on_message, context.get());
        return context;
    }
    return fail("no device for rendering was found (" + tried.substr(0, tried.size() > 2 ? tried.size() - 2 : 0) + ")",
                "", remedy);
}

Context::~Context() {
    if (display_ == EGL_NO_DISPLAY) return;
    if (eglGetCurrentContext() == context_) eglMakeCurrent(display_, EGL_NO_SURFACE, EGL_NO_SURFACE, EGL_NO_CONTEXT);
    if (surface_ != EGL_NO_SURFACE) eglDestroySurface(display_, surface_);
    if (context_ != EGL_NO_CONTEXT) eglDestroyContext(display_, context_);
    // The display is shared by all contexts of the process and is left initialised.
}

void Context::make_current() {
    if (eglGetCurrentContext() != context_) eglMakeCurrent(display_, surface_, surface_, context_);
}

void GLAPIENTRY Context::on_message(GLenum, GLenum type, GLuint, GLenum, GLsizei, const GLchar* text,
                                    const void* self) {
    if (type == GL_DEBUG_TYPE_ERROR) const_cast<Context*>(static_cast<const Context*>(self))->message_ = text;
}

void Context::listen_closely(bool on) {
    if (on)
        glEnable(GL_DEBUG_OUTPUT);
    else
        glDisable(GL_DEBUG_OUTPUT);
}

std::string Context::take_message() {
    std::string text;
    text.swap(message_);
    return text;
}

} // namespace mirolux::gpu
