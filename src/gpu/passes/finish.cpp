#include "core/finish/color_table.h"
#include "core/finish/dither.h"
#include "core/finish/exposure.h"
#include "core/finish/tone_curve.h"
#include "core/sky/sky_picture.h"
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

/// The table of colours that the setup names, kept while it stays as it is.
static void provide_table(PassFrame& f) {
    if (!f.plan.parameters.contains("tableLow")) return;
    const auto table = color_table(picture_file(f.inputs.scene, f.inputs.setup, "tone.file"));
    if (!table) return;
    std::any& held = f.store.objects["colour table"];
    const auto* digest = std::any_cast<std::string>(&held);
    Texture& kept = f.store.textures["colour table"];
    if (!kept || !digest || *digest != (*table)->digest) {
        GLuint made = 0;
        glCreateTextures(GL_TEXTURE_3D, 1, &made);
        const int n = (*table)->size;
        glTextureStorage3D(made, 1, GL_RGB32F, n, n, n);
        glTextureSubImage3D(made, 0, 0, 0, 0, n, n, n, GL_RGB, GL_FLOAT, (*table)->entries.data());
        glTextureParameteri(made, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
        glTextureParameteri(made, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
        for (const GLenum axis : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T, GL_TEXTURE_WRAP_R})
            glTextureParameteri(made, axis, GL_CLAMP_TO_EDGE);
        kept = Texture(made);
        held = (*table)->digest;
    }
    f.textures["colorTable"] = kept.name();
}

/// The tile of blue noise, where the picture is dithered with it.
static void provide_finish(PassFrame& f) {
    provide_table(f);
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
    if (f.plan.parameters.contains("tableLow")) variant.emplace_back("COLOR_TABLE");
    auto stage = f.screen_stage("finish/fragment.glsl", variant);
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"picture"});
    if (!state) return tl::unexpected(state.error());
    glProgramUniform2i(stage->name(), stage->uniform("outputSize"), f.width(), f.height());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

const GpuTechnique technique::finish{prepare_finish, provide_finish};

} // namespace mirolux::gpu
