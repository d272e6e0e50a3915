#include "core/finish/color_table.h"
#include "core/finish/dither.h"
#include "core/finish/edges.h"
#include "core/finish/exposure.h"
#include "core/finish/render_scale.h"
#include "core/finish/tone_curve.h"
#include "core/sky/sky_picture.h"
#include "gpu/passes/surface_pass.h"
#include <algorithm>

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

static Result<Commands> prepare_finish(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> variant = finish_variant(f.plan);
    variant.emplace_back("FINAL");
    if (f.plan.parameters.contains("tableLow")) variant.emplace_back("COLOR_TABLE");
    if (pass.writes.front() != "picture") variant.emplace_back("CODED");
    auto stage = f.screen_stage("finish/fragment.glsl", variant, {{"sceneTexture", f.texture(f.plan.radiance)}});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    glProgramUniform2i(stage->name(), stage->uniform("outputSize"), state->width, state->height);
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

namespace {

/// A texel of a target at the place of a shown pixel.
Result<glm::vec3> value_at(const PassFrame& f, const std::string& resource, glm::ivec2 shown) {
    auto target = f.framebuffer({resource});
    if (!target) return tl::unexpected(target.error());
    const PlannedResource& r = *f.plan.resource(resource);
    const glm::ivec2 size = shown_size(f.plan.view), at = shown * glm::ivec2(r.width, r.height) / size;
    float value[4] = {};
    glBindFramebuffer(GL_READ_FRAMEBUFFER, *target);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glReadPixels(at.x, r.spec.fromTop ? at.y : r.height - 1 - at.y, 1, 1, GL_RGBA, GL_FLOAT, value);
    return glm::vec3(value[0], value[1], value[2]);
}

/// One pixel through the finish up to a stage.
Result<glm::vec3> stage_value(PassFrame& f, int stage, glm::ivec2 shown) {
    std::vector<std::string> variant = finish_variant(f.plan);
    variant.insert(variant.end(), {"FINAL", "STAGE " + std::to_string(stage)});
    if (f.plan.parameters.contains("tableLow")) variant.emplace_back("COLOR_TABLE");
    auto program = f.screen_stage("finish/fragment.glsl", variant, {{"sceneTexture", f.texture(f.plan.radiance)}});
    if (!program) return tl::unexpected(program.error());
    Texture& one = f.store.textures["one pixel"];
    if (!one) one = make_texture("one pixel", GL_RGBA32F, 1, 1);
    const Framebuffer framebuffer = make_framebuffer("one pixel");
    glNamedFramebufferTexture(framebuffer.name(), GL_COLOR_ATTACHMENT0, one.name(), 0);
    PassState state;
    state.framebuffer = framebuffer.name();
    state.width = state.height = 1;
    state.depthTest = state.depthWrite = false;
    glProgramUniform2i(program->name(), program->uniform("probed"), shown.x,
                       f.plan.resource("picture")->height - 1 - shown.y);
    f.draw_screen(*program, state);
    glm::vec4 value(0.0f);
    glGetTextureImage(one.name(), 0, GL_RGBA, GL_FLOAT, sizeof value, &value.x);
    return glm::vec3(value);
}

/// What became of the pixel from the surfaces to its codes.
Result<void> probe_finish(PassFrame& f, PixelProbe& probe) {
    const FramePlan& plan = f.plan;
    const auto add = [&](const char* name, const Result<glm::vec3>& value) -> Result<void> {
        if (!value) return tl::unexpected(value.error());
        probe.stages.push_back({name, *value});
        return {};
    };
    struct Light {
        const char *name, *resource;
    };
    for (const Light& l : {Light{"surfaces", "scene"}, Light{"samples averaged", resolved_resource},
                           Light{"frames joined", accumulated_resource}, Light{"brought to size", resized_resource}})
        if (const PlannedResource* r = plan.resource(l.resource); r && r->spec.samples < 2)
            if (auto ok = add(l.name, value_at(f, l.resource, probe.shown)); !ok) return ok;
    const bool laidOver =
        std::any_of(plan.feeds.begin(), plan.feeds.end(), [](const Feed& feed) { return feed.slot == Slot::post; });
    const bool coded = plan.parameters.at("outputForm").x > 0;
    struct Step {
        const char* name;
        bool taken;
    };
    const Step steps[] = {{"glow and lines laid over", laidOver},
                          {"exposed", true},
                          {"white balance", white_balance(plan.setup) != glm::dvec3(1.0)},
                          {"tone curve", true},
                          {"sRGB's code", coded},
                          {"colour table", plan.parameters.contains("tableLow")}};
    for (int i = 0; i < 6; ++i)
        if (steps[i].taken)
            if (auto ok = add(steps[i].name, stage_value(f, i + 1, probe.shown)); !ok) return ok;
    return add(plan.resource(coded_resource) ? "edges smoothed, dithered, rounded" : "dithered, rounded",
               value_at(f, "picture", probe.shown));
}

} // namespace

const GpuTechnique technique::finish{prepare_finish, provide_finish, probe_finish};

} // namespace mirolux::gpu
