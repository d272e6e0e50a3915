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

/// Depth peeling: the layer under way, two depths in turn, and the sum of layers.
struct PeelTargets {
    Texture color, total, depth[2];
    Framebuffer layer[2], sum;
};

/// The textures that a frame of one size and format writes.
struct Targets {
    int width = 0, height = 0;
    GLenum colorFormat = GL_RGBA16F;
    bool stencil = false;
    Texture color, depth, picture;
    Framebuffer scene, colorOnly, finish;
    GBuffer gbuffer; // made when a deferred path first asks for it; so are the following
    PeelTargets peel;
    Texture depthCopy, transmittance;
    Framebuffer transmittanceTarget;
};

/// The targets of two eyes: layered ones for passes that draw both at once, and each layer as targets of its own.
struct EyeTargets {
    Targets both, eye[2];
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
    EyeTargets& eye_targets(int width, int height, GLenum colorFormat, bool stencil);
    /// The targets' G-buffer in the packing asked for.
    static GBuffer& gbuffer(Targets& targets, bool full);
    /// The G-buffer of both eyes, and each eye's in its own targets.
    static GBuffer& gbuffer(EyeTargets& targets, bool full);
    static PeelTargets& peel(Targets& targets);
    /// A second depth texture of the same format, to read while the first is tested against.
    static GLuint depth_copy(Targets& targets);
    /// A one-channel target on the scene's depth, for the ledger.
    static GLuint transmittance(Targets& targets);
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
    std::deque<EyeTargets> eyeTargets_;
    std::deque<LayerTargets> layers_;
    std::deque<View> views_;
};

} // namespace mirolux::gpu
