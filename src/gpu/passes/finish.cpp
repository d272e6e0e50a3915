#include "core/finish/dither.h"
#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

std::vector<std::string> finish_variant(const FramePlan& plan) {
    const std::string& kind = plan.setup.choice("output.dither");
    const int dither = kind == "none"      ? 0
                       : kind == "ordered" ? plan.setup.choice("output.tile") == "8x8" ? 1 : 2
                       : kind == "blue"    ? 3
                                           : 4;
    std::vector<std::string> out = {"DITHER " + std::to_string(dither),
                                    "TONE " + std::to_string(static_cast<int>(tone_curve(plan.setup)))};
    if (plan.setup.choice("tone.by") == "luminance") out.emplace_back("BY_LUMINANCE");
    if (white_balance(plan.setup) != glm::dvec3(1.0)) out.emplace_back("BALANCED");
    if (plan.resource(exposure_resource)) out.emplace_back("METERED");
    return out;
}

/// The tile of blue noise, where the picture is dithered with it.
static void provide_dither(PassFrame& f) {
    const std::string& kind = f.inputs.setup.choice("output.dither");
    if (kind != "blue" && kind != "triangular") return;
    Texture& tile = f.store.textures["dither tile"];
    if (!tile) {
        GLuint made = 0;
        glCreateTextures(GL_TEXTURE_2D, 1, &made);
        glTextureStorage2D(made, 1, GL_R32F, blue_noise_size, blue_noise_size);
        glTextureSubImage2D(made, 0, 0, 0, blue_noise_size, blue_noise_size, GL_RED, GL_FLOAT, blue_noise().data());
        glTextureParameteri(made, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        tile = Texture(made);
    }
    f.textures["ditherTile"] = tile.name();
}

static Result<Commands> prepare_finish(PassFrame& f, const PlannedPass&) {
    std::vector<std::string> variant = finish_variant(f.plan);
    variant.emplace_back("FINAL");
    auto stage = f.screen_stage("finish/fragment.glsl", variant);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"picture"});
    if (!state) return tl::unexpected(state.error());
    glProgramUniform2i(stage->name(), stage->uniform("outputSize"), f.width(), f.height());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::finish{prepare_finish, provide_dither};

} // namespace mirolux::gpu
