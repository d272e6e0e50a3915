#include "core/finish/bloom.h"
#include "gpu/passes/mip_levels.h"

namespace mirolux::gpu {

namespace {

/// What the picture's light is read from.
PassFrame::Replaced of_picture(const PassFrame& f) {
    return {{"sceneTexture", f.texture(f.plan.radiance)}};
}

std::vector<std::string> exposed(const PassFrame& f) {
    return finish_variant(f.plan);
}

Result<Commands> prepare_down(PassFrame& f) {
    LevelDraws draws(f, bloom_resource);
    for (int level = 0; level < f.plan.resource(bloom_resource)->spec.mips; ++level) {
        std::vector<std::string> variant = exposed(f);
        if (level == 0) variant.emplace_back("FIRST");
        auto stage =
            f.screen_stage("bloom/halve.glsl", variant, level == 0 ? of_picture(f) : draws.reading("finer", level - 1));
        if (!stage) return tl::unexpected(stage.error());
        draws.add({std::move(*stage), level, {}});
    }
    return std::move(draws).commands();
}

Result<Commands> prepare_up(PassFrame& f) {
    LevelDraws draws(f, bloom_resource);
    for (int level = f.plan.resource(bloom_resource)->spec.mips - 2; level >= 0; --level) {
        auto stage = f.screen_stage("bloom/widen.glsl", {}, draws.reading("coarser", level + 1));
        if (!stage) return tl::unexpected(stage.error());
        draws.add({std::move(*stage), level, {true, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE}});
    }
    return std::move(draws).commands();
}

Result<Commands> prepare_bloom(PassFrame& f, const PlannedPass& pass) {
    if (pass.name == "bloom down") return prepare_down(f);
    if (pass.name == "bloom up") return prepare_up(f);
    const bool bright = pass.name == "bright parts";
    const std::vector<std::string> variant = bright                     ? exposed(f)
                                             : pass.name == "glow down" ? std::vector<std::string>{"DOWN"}
                                                                        : std::vector<std::string>{};
    auto stage = f.screen_stage(bright ? "bloom/bright.glsl" : "bloom/blur.glsl", variant, of_picture(f));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    return [&f, stage = std::move(*stage), state = *state] { f.draw_screen(stage, state); };
}

} // namespace

const GpuTechnique technique::bloom{prepare_bloom};

} // namespace mirolux::gpu
