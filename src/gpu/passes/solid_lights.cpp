#include "core/light/cheap_lights.h"
#include "gpu/passes/cheap_share.h"
#include "gpu/passes/proxy_pass.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// shaders/include/solid_lights.glsl.
struct SolidLightData {
    glm::mat4 toUnit;
    glm::vec4 tint;
    glm::ivec4 planes;
};

std::vector<glm::vec4> planes_of(const ProxyMesh& m) {
    std::vector<glm::vec4> planes;
    for (std::size_t i = 0; i < m.indices.size(); i += 3) {
        const glm::vec3 a = m.positions[m.indices[i]],
                        n = glm::normalize(
                            glm::cross(m.positions[m.indices[i + 1]] - a, m.positions[m.indices[i + 2]] - a));
        planes.emplace_back(n, glm::dot(n, a));
    }
    return planes;
}

void provide_solid_lights(PassFrame& f) {
    static const std::vector<glm::vec4> ball = planes_of(sphere_proxy(volume_sphere_steps)),
                                        cone = planes_of(cone_proxy(volume_cone_sides));
    std::vector<glm::vec4> planes = ball;
    planes.insert(planes.end(), cone.begin(), cone.end());
    const int balls = static_cast<int>(ball.size());
    std::vector<SolidLightData> data;
    for (const CheapLight& l : cheap_lights_of(f.inputs.scene, f.inputs.setup, true)) {
        const bool isCone = l.shape == CheapShape::cone;
        data.push_back(
            {glm::inverse(solid_proxy(l).transform), glm::vec4(l.tint, 0),
             isCone ? glm::ivec4(balls, static_cast<int>(planes.size()), 0, 0) : glm::ivec4(0, balls, 0, 0)});
    }
    if (data.empty()) data.emplace_back(); // the block is never unbound
    f.upload("SolidLightBuffer", data.data(), data.size() * sizeof(SolidLightData));
    f.upload("SolidPlaneBuffer", planes.data(), planes.size() * sizeof(glm::vec4));
}

struct SolidLights {
    Stage mark, tint;
    PassState marking, tinting;
    GLuint depth = 0, depthCopy = 0; // copy 0: nothing reads it
    std::vector<CheapLight> lights;
    const ProxyMeshes* meshes = nullptr;
};

void run(PassFrame& f, const SolidLights& s) {
    if (s.depthCopy)
        glCopyImageSubData(s.depth, GL_TEXTURE_2D, 0, 0, 0, 0, s.depthCopy, GL_TEXTURE_2D, 0, 0, 0, 0, f.width(),
                           f.height(), 1);
    s.marking.apply();
    const GLint zero = 0;
    glClearNamedFramebufferiv(s.marking.framebuffer, GL_STENCIL, 0, &zero);
    for (const CheapLight& l : s.lights) {
        const Proxy proxy = solid_proxy(l);
        const auto mark = [&] { draw_proxy(*s.meshes, s.mark, s.marking, proxy); };
        const auto tint = [&] {
            glProgramUniform3fv(s.tint.name(), s.tint.uniform("tint"), 1, &l.tint.x);
            draw_proxy(*s.meshes, s.tint, s.tinting, proxy);
        };
        if (f.instrument == Instrument::ledger)
            enter_cheap_share(f, l.id, mark, tint);
        else {
            mark();
            tint();
        }
        f.vitals.beat();
    }
}

Result<Commands> prepare_solid_lights(PassFrame& f, const PlannedPass& pass) {
    SolidLights s;
    s.lights = cheap_lights_of(f.inputs.scene, f.inputs.setup, true);
    s.meshes = &proxy_meshes(f);
    s.depth = f.texture("depth");
    if (pass.writes.size() > 1) s.depthCopy = f.texture("depth behind solid lights");
    const PassFrame::Replaced copy = {{"depthTexture", s.depthCopy}};
    const auto made = [&](const char* fragment, std::vector<std::string> defines) {
        return f.stage({{GL_VERTEX_SHADER, "volumes/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, fragment, ""}},
                       f.shading_defines(std::move(defines)), copy);
    };
    auto mark = made("volumes/fragment.glsl", {"SHADE 0"}), tint = made("solid_lights/fragment.glsl", {});
    if (!mark) return tl::unexpected(mark.error());
    if (!tint) return tl::unexpected(tint.error());
    s.mark = std::move(*mark);
    s.tint = std::move(*tint);
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    s.marking = marking(*state);
    s.tinting = where_marked(*state);
    s.tinting.blend = changing();
    return [&f, s = std::move(s)] { run(f, s); };
}

} // namespace

const GpuTechnique technique::solid_lights{prepare_solid_lights, provide_solid_lights};

} // namespace mirolux::gpu
