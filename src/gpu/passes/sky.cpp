#include "core/sky/sky.h"
#include "core/sky/sky_model.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

static Result<Commands> prepare_sky(PassFrame& f, const PlannedPass&) {
    auto stage = f.screen_stage("sky/fragment.glsl", sky_defines(f.inputs.setup, f.plan));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_EQUAL; // the triangle lies at depth 0: where nothing was drawn
    state->depthWrite = false;
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

/// The picture stays on the device while it is the same one.
static void provide_sky(PassFrame& f) {
    const SkySettings s = sky_settings(f.inputs.scene, f.inputs.setup, f.inputs.view);
    if (!s.picture) return;
    std::any& held = f.store.objects["sky picture"];
    Texture& texture = f.store.textures["sky picture"];
    if (const auto* before = std::any_cast<std::shared_ptr<const SkyPicture>>(&held); !before || *before != s.picture) {
        const FloatImage& image = s.picture->image;
        texture = make_texture("sky picture", GL_RGBA32F, image.width, image.height);
        glTextureSubImage2D(texture.name(), 0, 0, 0, image.width, image.height, GL_RGBA, GL_FLOAT, image.data.data());
        glTextureParameteri(texture.name(), GL_TEXTURE_MIN_FILTER, GL_LINEAR);
        glTextureParameteri(texture.name(), GL_TEXTURE_MAG_FILTER, GL_LINEAR);
        glTextureParameteri(texture.name(), GL_TEXTURE_WRAP_S, GL_REPEAT);
        glTextureParameteri(texture.name(), GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
        held = s.picture;
    }
    f.textures["skyPicture"] = texture.name();
}

const GpuTechnique technique::sky{prepare_sky, provide_sky};

} // namespace mirolux::gpu
