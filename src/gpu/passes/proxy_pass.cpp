#include "gpu/passes/proxy_pass.h"

namespace mirolux::gpu {

const ProxyMeshes& proxy_meshes(const PassFrame& f) {
    std::any& meshes = f.store.objects["light volumes"];
    if (!meshes.has_value()) meshes = std::make_shared<ProxyMeshes>();
    return *std::any_cast<std::shared_ptr<ProxyMeshes>>(meshes);
}

void draw_proxy(const ProxyMeshes& meshes, const Stage& stage, const PassState& state, const Proxy& proxy) {
    glProgramUniformMatrix4fv(stage.name(), stage.uniform("place"), 1, GL_FALSE, &proxy.transform[0].x);
    state.apply();
    stage.use();
    glBindVertexArray(meshes.vertex_array());
    const ProxyMeshes::Part& part = meshes.part(proxy.shape);
    glDrawElementsBaseVertex(GL_TRIANGLES, part.count, GL_UNSIGNED_INT,
                             reinterpret_cast<const void*>(part.first * sizeof(GLuint)), part.baseVertex);
}

PassState marking(PassState s) {
    s.depthWrite = false;
    s.blend = {};
    s.colorWrite = false;
    s.stencil = {true, GL_ALWAYS, 0, GL_INCR_WRAP, GL_DECR_WRAP, GL_KEEP, GL_KEEP};
    return s;
}

PassState where_marked(PassState s) {
    s.depthWrite = s.depthTest = false;
    s.cull = GL_FRONT;
    s.stencil = {true, GL_NOTEQUAL, 0, GL_KEEP, GL_KEEP, GL_ZERO, GL_ZERO};
    return s;
}

} // namespace mirolux::gpu
