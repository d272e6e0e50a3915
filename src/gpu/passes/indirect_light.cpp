#include "core/bake/baked_light.h"
#include "gpu/passes/map_textures.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

void fill(PassFrame& f, const BakedLight& baked) {
    const PlannedResource& light = *f.plan.resource(light_map_resource);
    const GLuint texture = f.resources.texture(light_map_resource, -1);
    for (std::size_t i = 0; i < baked.layers.size(); ++i) {
        const StoredLayer& l = baked.layers[i];
        const bool half = baked.store == TexelStore::half, factored = baked.store == TexelStore::rgbm;
        fill_layer(light, texture, static_cast<int>(i), factored ? GL_RGBA : GL_RGB,
                   half       ? GL_HALF_FLOAT
                   : factored ? GL_UNSIGNED_BYTE
                              : GL_UNSIGNED_INT_5_9_9_9_REV,
                   l.texels.bytes);
    }
    const PlannedResource* directions = f.plan.resource(light_map_directions_resource);
    if (!directions) return;
    const GLuint ways = f.resources.texture(light_map_directions_resource, -1);
    int layer = 0;
    for (const StoredLayer& l : baked.layers)
        for (const ByteImage& toward : l.toward)
            fill_layer(*directions, ways, layer++, GL_RGBA, GL_UNSIGNED_BYTE, toward.rgba);
}

void provide_indirect_light(PassFrame& f) {
    const auto& baked = f.inputs.scene.baked;
    if (!baked || !baked->lit() || !f.plan.resource(light_map_resource)) return;
    const bool directions = f.plan.resource(light_map_directions_resource) != nullptr;
    const bool light = needs_filling(f, light_map_resource, baked);
    if ((directions && needs_filling(f, light_map_directions_resource, baked)) || light) fill(f, *baked);
    std::vector<glm::vec4> layers;
    const std::vector<glm::vec3> factors = layer_factors(f.inputs.scene, f.inputs.time.seconds);
    for (std::size_t i = 0; i < factors.size(); ++i)
        if (factors[i] != glm::vec3(0.0f))
            layers.emplace_back(factors[i] * baked->layers[i].texels.scale, static_cast<float>(i));
    f.upload("MapLayerBuffer", layers.data(), layers.size() * sizeof(glm::vec4));
    f.textures["mapLight"] = array_of(f, light_map_resource);
    if (directions) f.textures["mapDirections"] = array_of(f, light_map_directions_resource);
}

} // namespace

const GpuTechnique technique::indirect_light{nullptr, provide_indirect_light};

} // namespace mirolux::gpu
