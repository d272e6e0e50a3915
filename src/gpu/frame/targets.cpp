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
            t.finish = make_framebuffer("finish");
            glNamedFramebufferTexture(t.finish.name(), GL_COLOR_ATTACHMENT0, t.picture.name(), 0);
            return t;
        });
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
