#include "gpu/passes/proxy_pass.h"
#include "gpu/passes/surface_pass.h"

// Light volumes (J. Arvo's bounding idea in deferred shading, as in S. Hargreaves and M. Harris, Deferred Shading,
// 2004): the pixels that a light's proxy mesh bounds are shaded with it, and added.
namespace mirolux::gpu {

namespace {

struct Volumes {
    Stage fullScreen, shade, mark;
    PassState screen, shading, marking;
    GLuint depth = 0, depthCopy = 0;
    const ProxyMeshes* meshes = nullptr;
    bool twoStep = false;
};

void run(const PassFrame& f, const Volumes& v) {
    // The depth that is tested against cannot be read at the same time: shaders read a copy.
    glCopyImageSubData(v.depth, GL_TEXTURE_2D, 0, 0, 0, 0, v.depthCopy, GL_TEXTURE_2D, 0, 0, 0, 0, f.width(),
                       f.height(), 1);
    const DrawList& list = f.inputs.draws;
    if (list.directional > 0) f.draw_screen(v.fullScreen, v.screen);
    if (v.twoStep) {
        v.marking.apply();
        const GLint zero = 0;
        glClearNamedFramebufferiv(v.marking.framebuffer, GL_STENCIL, 0, &zero);
    }
    for (std::size_t l = static_cast<std::size_t>(list.directional); l < list.lights.size(); ++l) {
        const Proxy proxy = light_proxy(list.lights[l], list.reach[l]);
        if (v.twoStep) draw_proxy(*v.meshes, v.mark, v.marking, proxy);
        glProgramUniform1ui(v.shade.name(), v.shade.uniform("lightIndex"), static_cast<GLuint>(l));
        draw_proxy(*v.meshes, v.shade, v.shading, proxy);
        f.vitals.beat();
    }
}

/// State for marking and for shading one light.
void fill_states(Volumes& v) {
    PassState& s = v.shading;
    s.depthWrite = false;
    s.blend = PassState::adding();
    v.screen = s;
    v.screen.depthTest = false;
    v.marking = marking(s);
    if (v.twoStep)
        s = where_marked(s);
    else {
        s.cull = GL_FRONT;
        s.depthFunc = GL_LEQUAL; // reversed depth: the back face lies at the surface or behind it
    }
}

Result<Commands> prepare_volumes(PassFrame& f, const PlannedPass& pass) {
    std::vector<std::string> targets = {"scene"}, shading;
    write_diffuse_light(pass, targets, shading);
    const auto with = [&](const char* step) {
        std::vector<std::string> all = shading;
        all.emplace_back(step);
        return f.shading_defines(std::move(all));
    };
    Volumes v;
    v.twoStep = f.inputs.setup.choice("volumes.form") == "two-step";
    v.depth = f.texture("depth");
    v.depthCopy = f.texture("depth copy");
    const PassFrame::Replaced copy = {{"depthTexture", v.depthCopy}};
    const auto proxy_stage = [&](const char* step) {
        return f.stage(
            {{GL_VERTEX_SHADER, "volumes/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "volumes/fragment.glsl", ""}},
            with(step), copy);
    };
    auto full = f.screen_stage("deferred_shading/fragment.glsl", with("LIGHTS_OF 2"), copy);
    if (!full) return tl::unexpected(full.error());
    auto shade = proxy_stage("SHADE 1");
    if (!shade) return tl::unexpected(shade.error());
    auto mark = proxy_stage("SHADE 0");
    if (!mark) return tl::unexpected(mark.error());
    glProgramUniform1ui(full->name(), full->uniform("lightCount"), static_cast<GLuint>(f.inputs.draws.directional));
    v.fullScreen = std::move(*full);
    v.shade = std::move(*shade);
    v.mark = std::move(*mark);
    auto state = f.state(targets, "depth");
    if (!state) return tl::unexpected(state.error());
    v.shading = *state;
    fill_states(v);
    v.meshes = &proxy_meshes(f);
    return [&f, v = std::move(v)] { run(f, v); };
}

} // namespace

const GpuTechnique technique::volumes{prepare_volumes};

} // namespace mirolux::gpu
