#include "core/bake/baked_light.h"
#include "gpu/passes/map_textures.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

void provide_baked_occlusion(PassFrame& f) {
    const auto& baked = f.inputs.scene.baked;
    if (!baked || !baked->occlusion) return;
    const BakedOcclusion& o = *baked->occlusion;
    if (const PlannedResource* r = f.plan.resource(baked_occlusion_resource)) {
        if (needs_filling(f, baked_occlusion_resource, baked->occlusion))
            fill_layer(*r, f.resources.texture(baked_occlusion_resource, -1), 0, GL_RED, GL_UNSIGNED_BYTE, o.open);
        f.textures["bakedOpenness"] = array_of(f, baked_occlusion_resource);
    }
    if (f.plan.resource(vertex_occlusion_resource)) {
        const GLuint buffer = f.resources.buffer(vertex_occlusion_resource);
        if (needs_filling(f, vertex_occlusion_resource, baked->occlusion)) { // buffers of the plan take copies alone
            Buffer staged("vertex occlusion, staged");
            staged.upload(o.open.data(), o.open.size());
            glCopyNamedBufferSubData(staged.name(), buffer, 0, 0, static_cast<GLsizeiptr>(o.open.size()));
        }
        f.buffers["VertexOpennessBuffer"] = {buffer, 0, 0};
    }
}

} // namespace

const GpuTechnique technique::baked_occlusion{nullptr, provide_baked_occlusion};

} // namespace mirolux::gpu
