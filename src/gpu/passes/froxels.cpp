#include "core/air/froxels.h"
#include "core/air/air.h"
#include "core/base/text.h"
#include "core/shadow/shadow_maps.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

constexpr int mostChanged = 64;

/// froxels/light.glsl: the eye last frame, and where a light has changed since.
struct AirBefore {
    glm::mat4 viewProjection;
    glm::vec4 eye;
    int changed, pad[3];
    glm::vec4 spheres[mostChanged];
};

/// include/air_medium.glsl.
struct AirVolumeData {
    glm::vec4 center, half, turn, albedo, emission, drifted;
};

/// A fade by distance, as the eye moves, is no change.
bool same_light(Light before, const Light& now) {
    if (std::abs(before.intensity - now.intensity) <= 0.05f * now.intensity) before.intensity = now.intensity;
    return before == now;
}

/// Spheres in which a light of either frame is not as in the other; none: more than are told apart, or one without end.
std::optional<std::vector<glm::vec4>> changed_lights(const DrawList& before, const DrawList& now) {
    std::map<int, std::size_t> places;
    for (std::size_t i = 0; i < before.lights.size(); ++i)
        places[before.lights[i].id] = i;
    std::vector<glm::vec4> out;
    bool endless = false;
    const auto add = [&](const DrawList& list, std::size_t i) {
        const Sphere s = light_bounds(list.lights[i], list.reach[i]);
        endless = endless || list.lights[i].type == LightType::directional || !(s.radius > 0);
        out.emplace_back(s.center, s.radius);
    };
    for (std::size_t i = 0; i < now.lights.size(); ++i) {
        const auto it = places.find(now.lights[i].id);
        if (it != places.end() && same_light(before.lights[it->second], now.lights[i])) {
            places.erase(it);
            continue;
        }
        add(now, i);
        if (it == places.end()) continue;
        add(before, it->second);
        places.erase(it);
    }
    for (const auto& [id, i] : places)
        add(before, i);
    if (endless || out.size() > mostChanged) return std::nullopt;
    return out;
}

/// All that shapes the cells beside lights and the eye: when it changes, what was held is of another air.
std::string shape_of_air(const PassFrame& f) {
    Digest digest;
    for (const char* name : {"airFog", "airShape", "airPhase", "airEmission", "airAmbient", "airDepths"})
        if (const auto it = f.plan.parameters.find(name); it != f.plan.parameters.end())
            digest.add(&it->second, sizeof it->second);
    return digest.hex() + "," + to_text(f.inputs.setup.get("air.lampShare"));
}

void provide_before(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    AirBefore data{};
    const std::string shape = shape_of_air(f);
    std::any& kept = f.store.objects["air before " + std::to_string(f.eye)];
    const auto* held = std::any_cast<std::string>(&kept);
    data.changed = -1;
    if (in.before && held && *held == shape) {
        const View eye = eye_views(in.before->view)[static_cast<std::size_t>(std::max(f.eye, 0))];
        data.viewProjection = projection_matrix(eye.camera, aspect_of(eye)) * view_matrix(eye.camera);
        data.eye = glm::vec4(eye.camera.eye, 0);
        if (const auto spheres = changed_lights(in.before->draws, in.draws)) {
            data.changed = static_cast<int>(spheres->size());
            std::copy(spheres->begin(), spheres->end(), data.spheres);
        }
    }
    kept = shape;
    f.upload("AirBeforeBuffer", &data, sizeof data);
}

void provide_froxels(PassFrame& f) {
    if (f.both_eyes()) return; // cells are of one eye
    const AirMedium m = medium_of(f.inputs);
    std::vector<AirVolumeData> volumes;
    for (const AirVolume& v : m.volumes)
        volumes.push_back({{v.center, v.shape == VolumeShape::box ? 0.0f : 1.0f},
                           {0.5f * v.size, v.falloff},
                           {std::cos(v.turn), std::sin(v.turn), v.extinction, v.noise},
                           {v.albedo, 1.0f / std::max(v.grain, 1e-3f)},
                           {v.emission, 0},
                           {v.drift * static_cast<float>(m.seconds), 0}});
    if (!volumes.empty()) f.upload("AirVolumeBuffer", volumes.data(), volumes.size() * sizeof(AirVolumeData));
    provide_before(f);
}

/// Shadows are asked plainly: a cell is wider than any filter.
std::vector<std::string> defines_of_cells(const PassFrame& f) {
    std::vector<std::string> out;
    for (const std::string& d : f.plan.surfaceDefines)
        if (d.rfind("SHADOW_FILTER", 0) != 0 && d.rfind("SHADOW_TAPS", 0) != 0 &&
            d.rfind("SHADOW_RECEIVER_PLANE", 0) != 0)
            out.push_back(d);
    if (f.plan.resource(shadow_atlas_resource))
        out.insert(out.end(), {"AIR_SHADOWS", "SHADOW_FILTER 1", "SHADOW_TAPS 1", "SHADOW_RECEIVER_PLANE 0"});
    if (f.plan.parameters.at("airShape").w > 0) out.emplace_back("AIR_VOLUMES");
    if (f.plan.resource("air cells")->spec.life == Life::history) {
        out.emplace_back("AIR_HISTORY");
        if (f.inputs.setup.flag("air.reproject")) out.emplace_back("AIR_REPROJECT");
    }
    return out;
}

Result<Commands> prepare_froxels(PassFrame& f, const PlannedPass& pass) {
    const FroxelGrid g = froxel_grid(f.inputs.setup, f.inputs.view);
    const bool sums = pass.writes.front() == "air sums";
    auto stage = f.stage({{GL_COMPUTE_SHADER, sums ? "froxels/sums.glsl" : "froxels/light.glsl", ""}},
                         sums ? std::vector<std::string>{} : defines_of_cells(f));
    if (!stage) return tl::unexpected(stage.error());
    return [&f, stage = std::move(*stage), g, sums] {
        stage.use();
        const auto across = static_cast<GLuint>((g.columns + 7) / 8), down = static_cast<GLuint>((g.rows + 7) / 8);
        glDispatchCompute(across, down, sums ? 1 : static_cast<GLuint>(g.slices));
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT | GL_SHADER_IMAGE_ACCESS_BARRIER_BIT |
                        GL_SHADER_STORAGE_BARRIER_BIT);
        f.vitals.beat();
    };
}

/// Air before each surface of the pixel and before the sky, and what it shows of each light before what ends the pixel.
Result<void> probe_froxels(PassFrame& f, PixelProbe& probe) {
    std::vector<glm::vec4> points;
    float nearest = 1e9f;
    const std::size_t opaque = f.inputs.draws.opaque.size();
    for (const SurfaceSample& s : probe.samples) {
        points.emplace_back(s.position, 0);
        if (s.draw < opaque) nearest = std::min(nearest, glm::length(s.position - f.inputs.view.camera.eye));
    }
    const View eye = eye_views(f.inputs.view)[static_cast<std::size_t>(std::max(f.eye, 0))];
    const glm::vec2 place(probe.pixel.x + 0.5f, f.height() - probe.pixel.y - 0.5f);
    const float high = std::tan(0.5f * eye.camera.fovY), wide = high * static_cast<float>(aspect_of(eye));
    const glm::mat3 toWorld = glm::transpose(glm::mat3(view_matrix(eye.camera)));
    points.emplace_back(eye.camera.eye + toWorld * glm::vec3((2 * place.x / f.width() - 1) * wide,
                                                             (2 * place.y / f.height() - 1) * high, -1),
                        1);
    const std::size_t lights = f.inputs.draws.lights.size();
    std::vector<glm::vec4> air(points.size() + lights, glm::vec4(0.0f));
    f.upload("ProbePointBuffer", points.data(), points.size() * sizeof(glm::vec4));
    f.upload("ProbeAirBuffer", air.data(), air.size() * sizeof(glm::vec4));
    auto stage = f.stage({{GL_COMPUTE_SHADER, "froxels/probe.glsl", ""}}, defines_of_cells(f));
    if (!stage) return tl::unexpected(stage.error());
    const GLuint program = stage->name();
    glProgramUniform1i(program, stage->uniform("pointCount"), static_cast<GLint>(points.size()));
    glProgramUniform1i(program, stage->uniform("probedLights"), static_cast<GLint>(lights));
    glProgramUniform2f(program, stage->uniform("place"), place.x, place.y);
    glProgramUniform1f(program, stage->uniform("metres"), nearest);
    stage->use();
    glDispatchCompute(static_cast<GLuint>((air.size() + 7) / 8), 1, 1);
    glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
    glFinish();
    glGetNamedBufferSubData(f.buffers.at("ProbeAirBuffer").buffer, 0,
                            static_cast<GLsizeiptr>(air.size() * sizeof(glm::vec4)), air.data());
    for (std::size_t i = 0; i < probe.samples.size(); ++i)
        probe.samples[i].air = air[i];
    probe.airBeforeSky = air[points.size() - 1];
    for (std::size_t i = 0; i < lights; ++i)
        probe.airByLight.emplace_back(air[points.size() + i]);
    return {};
}

} // namespace

const GpuTechnique technique::froxels{prepare_froxels, provide_froxels, probe_froxels};

} // namespace mirolux::gpu
