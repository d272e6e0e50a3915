#pragma once
#include "gpu/gl/objects.h"
#include <deque>

namespace mirolux::gpu {

/// Surface of each pixel for deferred shading; shares the scene's colour and depth.
struct GBuffer {
    bool full = false;
    Texture base, normal, roughness;
    Framebuffer framebuffer;
};

/// The textures that a frame of one size and format writes.
struct Targets {
    int width = 0, height = 0;
    GLenum colorFormat = GL_RGBA16F;
    bool stencil = false;
    Texture color, depth, picture;
    Framebuffer scene, colorOnly, finish;
    GBuffer gbuffer; // made when a deferred path first asks for it
};

/// The intermediates of PASS_LAYERS, made only when layers are asked for.
struct LayerTargets {
    static constexpr int count = 7; // albedo, normal, material, ambient, diffuse, specular, emissive
    int width = 0, height = 0;
    Texture color[count], depth;
    Framebuffer framebuffer;
};

/// The few most recently used sets; older ones are freed, so that resizing does not grow without bound.
class TargetPool {
public:
    Targets& targets(int width, int height, GLenum colorFormat, bool stencil);
    /// The targets' G-buffer in the packing asked for.
    static GBuffer& gbuffer(Targets& targets, bool full);
    LayerTargets& layers(int width, int height);
    /// An RGBA8 target for views of layers.
    struct View {
        int width = 0, height = 0;
        Texture texture;
        Framebuffer framebuffer;
    };
    View& view(int width, int height);

private:
    std::deque<Targets> targets_;
    std::deque<LayerTargets> layers_;
    std::deque<View> views_;
};

} // namespace mirolux::gpu
