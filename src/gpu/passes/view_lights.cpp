#include "core/light/cheap_lights.h"
#include "gpu/passes/cheap_share.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

static_assert(most_cheap_lights == 32); // mostViewLights in shaders/include/view_lights.glsl

/// shaders/include/view_lights.glsl.
struct ViewLightData {
    glm::vec4 toward, stops[most_ramp_stops], at, more;
};

void provide_view_lights(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    const std::vector<CheapLight> lights = cheap_lights_of(in.scene, in.setup, false);
    const std::vector<View> eyes = eye_views(in.view);
    std::vector<ViewLightData> data;
    for (std::size_t e = 0; e < eyes.size(); ++e) {
        if (!f.both_eyes() && static_cast<int>(e) != f.eye) continue;
        const glm::mat3 toWorld = glm::transpose(glm::mat3(glm::dmat3(view_matrix(eyes[e].camera))));
        const std::size_t first = data.size();
        for (const CheapLight& l : lights) {
            ViewLightData d{};
            d.toward = glm::vec4(toWorld * l.toward, static_cast<float>(l.blend));
            d.more = {l.luminance, static_cast<float>(l.ramp.size()), 0, 0};
            for (std::size_t i = 0; i < std::min(l.ramp.size(), most_ramp_stops); ++i) {
                d.stops[i] = {l.ramp[i].color, l.ramp[i].amount};
                d.at[static_cast<int>(i)] = l.ramp[i].at;
            }
            data.push_back(d);
        }
        data.resize(first + most_cheap_lights);
    }
    f.upload("ViewLightBuffer", data.data(), data.size() * sizeof(ViewLightData));
    std::vector<std::uint32_t> bits = view_lights_by_object(in.scene, lights);
    bits.push_back(0); // the block is never empty
    f.upload("ViewLightObjectBuffer", bits.data(), bits.size() * sizeof(std::uint32_t));
}

/// The runs of opaque draws that have one of these lights; their commands lie in the order of the draws.
std::vector<Batch> batches_with(const PassFrame& f, const std::vector<std::uint32_t>& bits, std::uint32_t mask) {
    std::vector<Batch> out;
    for (const Batch& b : f.opaque) {
        bool open = false;
        for (std::size_t i = b.first; i < b.first + b.count; ++i) {
            const bool has = (bits[static_cast<std::size_t>(f.inputs.draws.opaque[i].object)] & mask) != 0;
            if (has && open)
                ++out.back().count;
            else if (has)
                out.push_back({b.material, b.mirrored, i, 1});
            open = has;
        }
    }
    return out;
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
    auto stage = f.mesh_stage("view_lights/fragment.glsl", f.shading_defines({}));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    state->depthFunc = GL_EQUAL;
    state->depthWrite = false;
    state->stencil = PassState::once_per_pixel(254);
    state->blend = changing();
    const std::vector<CheapLight> lights = cheap_lights_of(f.inputs.scene, f.inputs.setup, false);
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
