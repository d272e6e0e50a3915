#include "gpu/passes/map_textures.h"
#include "gpu/gl/formats.h"

namespace mirolux::gpu {

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

bool needs_filling(PassFrame& f, const std::string& resource, std::shared_ptr<const void> content) {
    using Filled = std::pair<std::shared_ptr<const void>, std::uint64_t>;
    std::any& kept = f.store.objects[resource + ", filled"];
    Filled now{std::move(content), f.resources.serial(resource)};
    if (const Filled* before = std::any_cast<Filled>(&kept); before && *before == now) return false;
    kept = std::move(now);
    f.vitals.enter("loading what was baked onto the device");
    return true;
}

} // namespace mirolux::gpu
