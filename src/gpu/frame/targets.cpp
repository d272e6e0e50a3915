#include "gpu/frame/targets.h"

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

Targets& TargetPool::targets(int width, int height, GLenum colorFormat, bool stencil) {
    return recent(
        targets_, 3, [&](const Targets& t) { return t.width == width && t.height == height && t.colorFormat == colorFormat && t.stencil == stencil; },
        [&] {
            Targets t;
            t.width = width;
            t.height = height;
            t.colorFormat = colorFormat;
            t.stencil = stencil;
            t.color = make_texture("scene", colorFormat, width, height);
            t.depth = make_texture("depth", stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F, width, height);
            t.picture = make_texture("picture", GL_RGBA8, width, height);
            t.scene = make_framebuffer("scene");
            glNamedFramebufferTexture(t.scene.name(), GL_COLOR_ATTACHMENT0, t.color.name(), 0);
            glNamedFramebufferTexture(t.scene.name(), stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT, t.depth.name(), 0);
            t.colorOnly = make_framebuffer("scene colour");
            glNamedFramebufferTexture(t.colorOnly.name(), GL_COLOR_ATTACHMENT0, t.color.name(), 0);
            t.finish = make_framebuffer("finish");
            glNamedFramebufferTexture(t.finish.name(), GL_COLOR_ATTACHMENT0, t.picture.name(), 0);
            return t;
        });
}

GBuffer& TargetPool::gbuffer(Targets& t, bool full) {
    if (t.gbuffer.framebuffer && t.gbuffer.full == full) return t.gbuffer;
    GBuffer g;
    g.full = full;
    g.base = make_texture("base colour, metallic", full ? GL_RGBA32F : GL_RGBA8, t.width, t.height);
    g.normal = make_texture("normal", full ? GL_RGBA32F : GL_RG16, t.width, t.height);
    g.roughness = make_texture("roughness, unlit", full ? GL_RG32F : GL_RG8, t.width, t.height);
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
    t.gbuffer = std::move(g);
    return t.gbuffer;
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
    if (!t.depthCopy) t.depthCopy = make_texture("depth copy", t.stencil ? GL_DEPTH32F_STENCIL8 : GL_DEPTH_COMPONENT32F, t.width, t.height);
    return t.depthCopy.name();
}

GLuint TargetPool::transmittance(Targets& t) {
    if (t.transmittanceTarget) return t.transmittanceTarget.name();
    t.transmittance = make_texture("transmittance", GL_R32F, t.width, t.height);
    t.transmittanceTarget = make_framebuffer("transmittance");
    glNamedFramebufferTexture(t.transmittanceTarget.name(), GL_COLOR_ATTACHMENT0, t.transmittance.name(), 0);
    glNamedFramebufferTexture(t.transmittanceTarget.name(), t.stencil ? GL_DEPTH_STENCIL_ATTACHMENT : GL_DEPTH_ATTACHMENT, t.depth.name(), 0);
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
