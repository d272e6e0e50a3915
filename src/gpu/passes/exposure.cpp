#include "core/finish/exposure.h"
#include "gpu/passes/surface_pass.h"
#include <cmath>

namespace mirolux::gpu {

namespace {

constexpr std::size_t bin_count = 2816; // as exposure/bins.glsl

bool by_histogram(const PassFrame& f) {
    return f.inputs.setup.choice("exposure.meter") == "histogram";
}

Result<Commands> prepare_exposure(PassFrame& f, const PlannedPass& pass) {
    const bool meter = pass.name == "meter", sums = pass.name == "meter sums";
    GLuint bins = 0;
    if (by_histogram(f)) {
        if (meter) {
            const std::vector<std::uint32_t> none(bin_count);
            f.upload("MeterBinBuffer", none.data(), none.size() * sizeof(std::uint32_t));
        }
        bins = f.buffers.at("MeterBinBuffer").buffer;
    }
    const std::vector<std::string> variant =
        by_histogram(f) ? std::vector<std::string>{"HISTOGRAM"} : std::vector<std::string>{};
    auto stage = f.screen_stage(meter  ? "exposure/meter.glsl"
                                : sums ? "exposure/sums.glsl"
                                       : "exposure/adapt.glsl",
                                variant, {{"sceneTexture", f.texture(f.plan.radiance)}});
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state(pass.writes);
    if (!state) return tl::unexpected(state.error());
    const PlannedResource& target = *f.plan.resource(pass.writes.front());
    if (meter || sums)
        glProgramUniform2i(stage->name(), stage->uniform(meter ? "cells" : "blocks"), target.width, target.height);
    else {
        // A picture of another size goes on from where the one before stood.
        const auto* held = std::any_cast<float>(&f.store.objects["exposure"]);
        const bool carried = held && f.inputs.time.index == 0 && std::isfinite(f.inputs.time.elapsed);
        glProgramUniform2f(stage->name(), stage->uniform("carried"), carried ? *held : 0, carried ? 1 : 0);
    }
    return [&f, stage = std::move(*stage), state = *state, bins, meter] {
        const GLuint zero = 0;
        if (bins && meter) glClearNamedBufferData(bins, GL_R32UI, GL_RED_INTEGER, GL_UNSIGNED_INT, &zero);
        f.draw_screen(stage, state);
        if (bins && meter) glMemoryBarrier(GL_SHADER_STORAGE_BARRIER_BIT);
    };
}

void tell_exposure(PassFrame& f) {
    glm::vec4 value(0.0f);
    glGetTextureSubImage(f.texture(exposure_resource), 0, 0, 0, 0, 1, 1, 1, GL_RGBA, GL_FLOAT, sizeof value, &value.x);
    f.store.objects["exposure"] = value.r;
    f.told[told_ev100] = {value.r};
    f.told[told_metered] = {value.b};
    f.told[told_luminance] = {value.a};
}

} // namespace

const GpuTechnique technique::exposure{prepare_exposure, nullptr, nullptr, tell_exposure};

} // namespace mirolux::gpu
