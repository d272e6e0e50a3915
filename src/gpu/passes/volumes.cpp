#include "core/light/proxy.h"
#include "gpu/frame/proxy_meshes.h"
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

void draw_proxy(const ProxyMeshes& meshes, ProxyShape shape) {
    const ProxyMeshes::Part& part = meshes.part(shape);
    glDrawElementsBaseVertex(GL_TRIANGLES, part.count, GL_UNSIGNED_INT,
                             reinterpret_cast<const void*>(part.first * sizeof(GLuint)), part.baseVertex);
}

void place(const Stage& s, const Proxy& proxy) {
    glProgramUniformMatrix4fv(s.name(), s.uniform("place"), 1, GL_FALSE, &proxy.transform[0].x);
}

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
    glBindVertexArray(v.meshes->vertex_array());
    for (std::size_t l = static_cast<std::size_t>(list.directional); l < list.lights.size(); ++l) {
        const Proxy proxy = light_proxy(list.lights[l], list.reach[l]);
        if (v.twoStep) {
            place(v.mark, proxy);
            v.marking.apply();
            v.mark.use();
            draw_proxy(*v.meshes, proxy.shape);
        }
        place(v.shade, proxy);
        glProgramUniform1ui(v.shade.name(), v.shade.uniform("lightIndex"), static_cast<GLuint>(l));
        v.shading.apply();
        v.shade.use();
        draw_proxy(*v.meshes, proxy.shape);
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
    v.marking = s;
    s.cull = GL_FRONT;
    if (!v.twoStep) {
        s.depthFunc = GL_LEQUAL; // reversed depth: the back face lies at the surface or behind it
        return;
    }
    s.depthTest = false;
    s.stencil = {true, GL_NOTEQUAL, 0, GL_KEEP, GL_KEEP, GL_ZERO, GL_ZERO}; // wiped for the next light as it shades
    // Depth fail: a surface inside the volume hides its back face but not its front face, so that one count is left.
    v.marking.blend = {};
    v.marking.colorWrite = false;
    v.marking.stencil = {true, GL_ALWAYS, 0, GL_INCR_WRAP, GL_DECR_WRAP, GL_KEEP, GL_KEEP};
}

Result<Commands> prepare_volumes(PassFrame& f, const PlannedPass&) {
    Volumes v;
    v.twoStep = f.inputs.setup.choice("volumes.form") == "two-step";
    v.depth = f.texture("depth");
    v.depthCopy = f.texture("depth copy");
    const PassFrame::Replaced copy = {{"depthTexture", v.depthCopy}};
    const auto proxy_stage = [&](const char* step) {
        return f.stage(
            {{GL_VERTEX_SHADER, "volumes/vertex.glsl", ""}, {GL_FRAGMENT_SHADER, "volumes/fragment.glsl", ""}},
            f.shading_defines({step}), copy);
    };
    auto full = f.screen_stage("deferred_shading/fragment.glsl", f.shading_defines({"LIGHTS_OF 2"}), copy);
    if (!full) return tl::unexpected(full.error());
    auto shade = proxy_stage("SHADE 1");
    if (!shade) return tl::unexpected(shade.error());
    auto mark = proxy_stage("SHADE 0");
    if (!mark) return tl::unexpected(mark.error());
    glProgramUniform1ui(full->name(), full->uniform("lightCount"), static_cast<GLuint>(f.inputs.draws.directional));
    v.fullScreen = std::move(*full);
    v.shade = std::move(*shade);
    v.mark = std::move(*mark);
    auto state = f.state({"scene"}, "depth");
    if (!state) return tl::unexpected(state.error());
    v.shading = *state;
    fill_states(v);
    std::any& meshes = f.store.objects["light volumes"];
    if (!meshes.has_value()) meshes = std::make_shared<ProxyMeshes>();
    v.meshes = std::any_cast<std::shared_ptr<ProxyMeshes>>(meshes).get();
    return [&f, v = std::move(v)] { run(f, v); };
}

} // namespace

const GpuTechnique technique::volumes{prepare_volumes};

} // namespace mirolux::gpu
