#include "core/light/cheap_lights.h"
#include "gpu/passes/cheap_share.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// shaders/include/view_lights.glsl.
struct ViewLightData {
    glm::vec4 toward, stops[most_ramp_stops], at, slope, blend;
};
static_assert(sizeof(ViewLightData) == 8 * sizeof(glm::vec4));

/// Both eyes look the same way: one of them tells where the lights point.
std::vector<ViewLightData> data_of(const std::vector<CheapLight>& lights, const View& view) {
    const glm::mat3 toWorld = glm::transpose(glm::mat3(glm::dmat3(view_matrix(eye_views(view).front().camera))));
    std::vector<ViewLightData> data;
    for (const CheapLight& l : lights) {
        ViewLightData d{};
        d.toward = glm::vec4(toWorld * l.toward, l.blend == CheapBlend::screen ? 1.0f : 1e30f);
        for (std::size_t i = 0; i < most_ramp_stops && !l.ramp.empty(); ++i) {
            const std::size_t stop = std::min(i, l.ramp.size() - 1), next = std::min(i + 1, l.ramp.size() - 1);
            d.stops[i] = {l.ramp[stop].color, l.ramp[stop].amount};
            d.at[static_cast<int>(i)] = l.ramp[stop].at;
            d.slope[static_cast<int>(i)] = 1 / std::max(l.ramp[next].at - l.ramp[stop].at, 1e-6f);
        }
        d.blend = {l.blend == CheapBlend::multiply, l.blend == CheapBlend::screen, l.blend == CheapBlend::mix,
                   l.blend == CheapBlend::multiply ? 0.0f : l.luminance};
        data.push_back(d);
    }
    return data;
}

void provide_view_lights(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    const std::vector<CheapLight> lights = cheap_lights_of(in.scene, in.setup, false);
    const std::vector<ViewLightData> data = data_of(lights, in.view);
    f.upload("ViewLightBuffer", data.data(), data.size() * sizeof(ViewLightData));
    const std::vector<std::uint32_t> bits = view_lights_by_object(in.scene, lights);
    f.upload("ViewLightObjectBuffer", bits.data(), bits.size() * sizeof(std::uint32_t));
}

/// The runs of opaque draws that have one of these lights; their commands lie in the order of the draws.
std::vector<Batch> batches_with(const PassFrame& f, const std::vector<std::uint32_t>& bits, std::uint32_t mask) {
    return runs_of(f.opaqueSingly, [&](std::size_t i) {
        return (bits[static_cast<std::size_t>(f.inputs.draws.opaque[i].object)] & mask) != 0;
    });
}

/// Every light alone, each with a mark of its own, so that the stencil need not be wiped between them.
void enter_shares(PassFrame& f, const SurfaceStage& stage, const PassState& state,
                  const std::vector<std::uint32_t>& bits) {
    const std::vector<CheapLight> lights = cheap_lights_of(f.inputs.scene, f.inputs.setup, false);
    int mark = 254;
    for (std::size_t l = 0; l < lights.size(); ++l) {
        const std::vector<Batch> batches = batches_with(f, bits, 1u << l);
        stage.set("lightMask", static_cast<GLuint>(1u << l));
        enter_cheap_share(
            f, lights[l].id, [] {},
            [&] {
                PassState own = state;
                own.stencil = PassState::once_per_pixel(mark--);
                f.draw(batches, stage, own);
            });
    }
}

Result<Commands> prepare_view_lights(PassFrame& f, const PlannedPass&) {
    const std::vector<CheapLight> lights = cheap_lights_of(f.inputs.scene, f.inputs.setup, false);
    std::vector<std::string> defines = {"VIEW_LIGHTS " + std::to_string(lights.size())};
    if (std::any_of(lights.begin(), lights.end(), [](const CheapLight& l) { return !l.objects.empty(); }))
        defines.emplace_back("VIEW_SOME");
    auto stage = f.mesh_stage("view_lights/fragment.glsl", f.shading_defines(std::move(defines)));
    if (!stage) return tl::unexpected(stage.error());
    const std::vector<ViewLightData> data = data_of(lights, f.inputs.view);
    for (const Stage* s : {&stage->solid, &stage->masked})
        if (s->program)
            glProgramUniform4fv(s->name(), s->uniform("viewLights[0]"), static_cast<GLsizei>(8 * data.size()),
                                &data.front().toward.x);
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_EQUAL;
    state->depthWrite = false;
    state->stencil = PassState::once_per_pixel(254);
    state->blend = changing();
    std::vector<std::uint32_t> bits = view_lights_by_object(f.inputs.scene, lights);
    stage->set("lightMask", ~GLuint(0));
    return
        [&f, stage = std::move(*stage), state = *state, batches = batches_with(f, bits, ~0u), bits = std::move(bits)] {
            if (f.instrument == Instrument::ledger)
                enter_shares(f, stage, state, bits);
            else
                f.draw(batches, stage, state);
        };
}

} // namespace

const GpuTechnique technique::view_lights{prepare_view_lights, provide_view_lights};

} // namespace mirolux::gpu
