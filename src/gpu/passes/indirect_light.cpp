#include "core/bake/baked_light.h"
#include "gpu/gl/formats.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// What the textures of a map were filled from.
struct Filled {
    std::shared_ptr<const BakedLight> baked;
    std::uint64_t serials[2] = {0, 0};
};
constexpr const char* filled_key = "light map, filled";

/// One layer of a resource that is an array, or all of one that is none.
void fill_layer(const PlannedResource& r, GLuint texture, int layer, GLenum format, GLenum type,
                const std::vector<std::uint8_t>& bytes) {
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    if (r.spec.format == Format::bc6h) {
        const GLenum name = gl_format(r.spec.format);
        if (r.layers > 1)
            glCompressedTextureSubImage3D(texture, 0, 0, 0, layer, r.width, r.height, 1, name,
                                          static_cast<GLsizei>(bytes.size()), bytes.data());
        else
            glCompressedTextureSubImage2D(texture, 0, 0, 0, r.width, r.height, name, static_cast<GLsizei>(bytes.size()),
                                          bytes.data());
    } else if (r.layers > 1)
        glTextureSubImage3D(texture, 0, 0, 0, layer, r.width, r.height, 1, format, type, bytes.data());
    else
        glTextureSubImage2D(texture, 0, 0, 0, r.width, r.height, format, type, bytes.data());
    glPixelStorei(GL_UNPACK_ALIGNMENT, 4);
}

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

/// The resource as an array, with one layer too.
GLuint array_of(PassFrame& f, const std::string& resource) {
    const PlannedResource& r = *f.plan.resource(resource);
    GLuint view = 0;
    glGenTextures(1, &view);
    glTextureView(view, GL_TEXTURE_2D_ARRAY, f.resources.texture(resource, -1), gl_format(r.spec.format), 0, 1, 0,
                  static_cast<GLuint>(r.layers));
    for (const auto& [parameter, value] : {std::pair<GLenum, GLint>{GL_TEXTURE_MIN_FILTER, GL_LINEAR},
                                           {GL_TEXTURE_MAG_FILTER, GL_LINEAR},
                                           {GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE},
                                           {GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE}})
        glTextureParameteri(view, parameter, value);
    f.store.textures[resource + " as an array " + std::to_string(f.eye)] = Texture(view);
    return view;
}

void provide_indirect_light(PassFrame& f) {
    const auto& baked = f.inputs.scene.baked;
    if (!baked || !f.plan.resource(light_map_resource)) return;
    const bool directions = f.plan.resource(light_map_directions_resource) != nullptr;
    std::any& kept = f.store.objects[filled_key];
    if (!std::any_cast<Filled>(&kept)) kept = Filled();
    Filled& filled = *std::any_cast<Filled>(&kept);
    const std::uint64_t serials[2] = {f.resources.serial(light_map_resource),
                                      directions ? f.resources.serial(light_map_directions_resource) : 0};
    if (filled.baked != baked || filled.serials[0] != serials[0] || filled.serials[1] != serials[1]) {
        f.vitals.enter("loading the light map onto the device");
        fill(f, *baked);
        filled = {baked, {serials[0], serials[1]}};
    }
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
