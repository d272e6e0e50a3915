#include "core/bake/baked_light.h"
#include "gpu/passes/map_textures.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

void provide_baked_shadows(PassFrame& f) {
    const auto& baked = f.inputs.scene.baked;
    const PlannedResource* r = f.plan.resource(baked_masks_resource);
    if (!baked || !baked->masks || !r) return;
    if (needs_filling(f, baked_masks_resource, baked->masks)) {
        const GLuint texture = f.resources.texture(baked_masks_resource, -1);
        for (std::size_t i = 0; i < baked->masks->sheets.size(); ++i)
            fill_layer(*r, texture, static_cast<int>(i), GL_RGBA, GL_UNSIGNED_BYTE, baked->masks->sheets[i].rgba);
    }
    f.textures["bakedMasks"] = array_of(f, baked_masks_resource);
}

} // namespace

const GpuTechnique technique::baked_shadows{nullptr, provide_baked_shadows};

} // namespace mirolux::gpu
