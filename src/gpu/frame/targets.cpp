#include "gpu/frame/targets.h"
#include <functional>

namespace mirolux::gpu {

/// The entry that `matches`, moved to the front; or one from `make`, with the oldest dropped.
template <class T, class Matches, class Make>
static T& recent(std::deque<T>& pool, std::size_t keep, Matches matches, Make make) {
    for (std::size_t i = 0; i < pool.size(); ++i)
        if (matches(pool[i])) {
            if (i > 0) {
                T found = std::move(pool[i]);
                pool.erase(pool.begin() + static_cast<std::ptrdiff_t>(i));
                pool.push_front(std::move(found));
            }
            return pool.front();
        }
    while (pool.size() >= keep)
        pool.pop_back();
    pool.push_front(make());
    return pool.front();
}

/// Makes a texture of a label and format.
using Maker = std::function<Texture(const char* label, GLenum format)>;

static Targets make_targets(int width, int height, GLenum colorFormat, bool stencil, const Maker& make) {
    Targets t;
    t.width = width;
    t.height = height;
    t.colorFormat = colorFormat;
    t.stencil = stencil;
    t.color = make("scene", colorFormat);
    t.depth = make("depth", stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F);
    t.picture = make("picture", GL_RGBA8);
    t.scene = make_framebuffer("scene");
    glNamedFramebufferTexture(t.scene.name(), GL_COLOR_ATTACHMENT0, t.color.name(), 0);
    glNamedFramebufferTexture(t.scene.name(), stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT,
                              t.depth.name(), 0);
    t.colorOnly = make_framebuffer("scene colour");
    glNamedFramebufferTexture(t.colorOnly.name(), GL_COLOR_ATTACHMENT0, t.color.name(), 0);
    t.finish = make_framebuffer("finish");
    glNamedFramebufferTexture(t.finish.name(), GL_COLOR_ATTACHMENT0, t.picture.name(), 0);
    return t;
}

Targets& TargetPool::targets(int width, int height, GLenum colorFormat, bool stencil) {
    return recent(
        targets_, 3,
        [&](const Targets& t) {
            return t.width == width && t.height == height && t.colorFormat == colorFormat && t.stencil == stencil;
        },
        [&] {
            return make_targets(width, height, colorFormat, stencil, [&](const char* label, GLenum format) {
                return make_texture(label, format, width, height);
            });
        });
}

EyeTargets& TargetPool::eye_targets(int width, int height, GLenum colorFormat, bool stencil) {
    return recent(
        eyeTargets_, 1,
        [&](const EyeTargets& t) {
            return t.both.width == width && t.both.height == height && t.both.colorFormat == colorFormat &&
                   t.both.stencil == stencil;
        },
        [&] {
            EyeTargets t;
            t.both = make_targets(width, height, colorFormat, stencil, [&](const char* label, GLenum format) {
                return make_layered(label, format, width, height);
            });
            for (int e = 0; e < 2; ++e)
                t.eye[e] = make_targets(width, height, colorFormat, stencil, [&](const char* label, GLenum format) {
                    const std::string wanted = label;
                    return make_layer_view(wanted == "scene"   ? t.both.color
                                           : wanted == "depth" ? t.both.depth
                                                               : t.both.picture,
                                           format, e);
                });
            return t;
        });
}

static GBuffer make_gbuffer(const Targets& t, bool full, const Maker& make) {
    GBuffer g;
    g.full = full;
    g.base = make("base colour, metallic", full ? GL_RGBA32F : GL_RGBA8);
    g.normal = make("normal", full ? GL_RGBA32F : GL_RG16);
    g.roughness = make("roughness, unlit", full ? GL_RG32F : GL_RG8);
    g.framebuffer = make_framebuffer("g-buffer");
    const GLuint f = g.framebuffer.name();
    const Texture* colors[] = {&t.color, &g.base, &g.normal, &g.roughness};
    GLenum attachments[4];
    for (int i = 0; i < 4; ++i) {
        attachments[i] = GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i);
        glNamedFramebufferTexture(f, attachments[i], colors[i]->name(), 0);
    }
    glNamedFramebufferDrawBuffers(f, 4, attachments);
    glNamedFramebufferTexture(f, t.stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT, t.depth.name(), 0);
    return g;
}

GBuffer& TargetPool::gbuffer(Targets& t, bool full) {
    if (!t.gbuffer.framebuffer || t.gbuffer.full != full)
        t.gbuffer = make_gbuffer(
            t, full, [&](const char* label, GLenum format) { return make_texture(label, format, t.width, t.height); });
    return t.gbuffer;
}

GBuffer& TargetPool::gbuffer(EyeTargets& t, bool full) {
    GBuffer& both = t.both.gbuffer;
    if (both.framebuffer && both.full == full) return both;
    for (Targets& eye : t.eye)
        eye.gbuffer = {};
    both = make_gbuffer(t.both, full, [&](const char* label, GLenum format) {
        return make_layered(label, format, t.both.width, t.both.height);
    });
    for (int e = 0; e < 2; ++e)
        t.eye[e].gbuffer = make_gbuffer(t.eye[e], full, [&](const char* label, GLenum format) {
            const std::string wanted = label;
            return make_layer_view(wanted == "normal"             ? both.normal
                                   : wanted == "roughness, unlit" ? both.roughness
                                                                  : both.base,
                                   format, e);
        });
    return both;
}

PeelTargets& TargetPool::peel(Targets& t) {
    if (t.peel.sum) return t.peel;
    PeelTargets p;
    p.color = make_texture("peeled layer", t.colorFormat, t.width, t.height);
    p.total = make_texture("peeled sum", t.colorFormat, t.width, t.height);
    p.sum = make_framebuffer("peeled sum");
    glNamedFramebufferTexture(p.sum.name(), GL_COLOR_ATTACHMENT0, p.total.name(), 0);
    for (int i = 0; i < 2; ++i) {
        p.depth[i] = make_texture("peeled depth", GL_DEPTH_COMPONENT32F, t.width, t.height);
        p.layer[i] = make_framebuffer("peeled layer");
        glNamedFramebufferTexture(p.layer[i].name(), GL_COLOR_ATTACHMENT0, p.color.name(), 0);
        glNamedFramebufferTexture(p.layer[i].name(), GL_DEPTH_ATTACHMENT, p.depth[i].name(), 0);
    }
    return t.peel = std::move(p);
}

GLuint TargetPool::depth_copy(Targets& t) {
    if (!t.depthCopy)
        t.depthCopy =
            make_texture("depth copy", t.stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F, t.width, t.height);
    return t.depthCopy.name();
}

GLuint TargetPool::transmittance(Targets& t) {
    if (t.transmittanceTarget) return t.transmittanceTarget.name();
    t.transmittance = make_texture("transmittance", GL_R32F, t.width, t.height);
    t.transmittanceTarget = make_framebuffer("transmittance");
    glNamedFramebufferTexture(t.transmittanceTarget.name(), GL_COLOR_ATTACHMENT0, t.transmittance.name(), 0);
    glNamedFramebufferTexture(t.transmittanceTarget.name(),
                              t.stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT, t.depth.name(), 0);
    return t.transmittanceTarget.name();
}

LayerTargets& TargetPool::layers(int width, int height) {
    return recent(
        layers_, 2, [&](const LayerTargets& t) { return t.width == width && t.height == height; },
        [&] {
            static const char* names[] = {"albedo", "normal", "material", "ambient", "diffuse", "specular", "emissive"};
            LayerTargets t;
            t.width = width;
            t.height = height;
            t.framebuffer = make_framebuffer("layers");
            GLenum attachments[LayerTargets::count];
            for (int i = 0; i < LayerTargets::count; ++i) {
                t.color[i] = make_texture(names[i], GL_RGBA16F, width, height);
                attachments[i] = GL_COLOR_ATTACHMENT0 + static_cast<GLenum>(i);
                glNamedFramebufferTexture(t.framebuffer.name(), attachments[i], t.color[i].name(), 0);
            }
            glNamedFramebufferDrawBuffers(t.framebuffer.name(), LayerTargets::count, attachments);
            t.depth = make_texture("layer depth", GL_DEPTH_COMPONENT32F, width, height);
            glNamedFramebufferTexture(t.framebuffer.name(), GL_DEPTH_ATTACHMENT, t.depth.name(), 0);
            return t;
        });
}

TargetPool::View& TargetPool::view(int width, int height) {
    return recent(
        views_, 2, [&](const View& v) { return v.width == width && v.height == height; },
        [&] {
            View v;
            v.width = width;
            v.height = height;
            v.texture = make_texture("view", GL_RGBA8, width, height);
            v.framebuffer = make_framebuffer("view");
            glNamedFramebufferTexture(v.framebuffer.name(), GL_COLOR_ATTACHMENT0, v.texture.name(), 0);
            return v;
        });
}

} // namespace mirolux::gpu
