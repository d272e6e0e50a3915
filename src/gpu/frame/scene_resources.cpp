#include "gpu/frame/scene_resources.h"
#include "core/motion/rig.h"
#include <algorithm>
#include <bit>
#include <cmath>

namespace mirolux::gpu {

static GLint wrap_mode(Wrap w) {
    return w == Wrap::clamp ? GL_CLAMP_TO_EDGE : w == Wrap::mirror ? GL_MIRRORED_REPEAT : GL_REPEAT;
}

static Texture plain_texture(const char* label, std::array<std::uint8_t, 4> rgba) {
    Texture t = make_texture(label, GL_RGBA8, 1, 1);
    glTextureSubImage2D(t.name(), 0, 0, 0, 1, 1, GL_RGBA, GL_UNSIGNED_BYTE, rgba.data());
    return t;
}

/// Primitives at the front that both have, with the same vertices.
static std::size_t shared_front(const SceneAsset& a, const SceneAsset& b) {
    std::size_t n = 0;
    while (n < a.primitives.size() && n < b.primitives.size() &&
           a.primitives[n].vertices.same(b.primitives[n].vertices) &&
           a.primitives[n].indices.same(b.primitives[n].indices))
        ++n;
    return n;
}

void SceneResources::upload_geometry(const SceneResources* before) {
    const std::size_t kept = before ? shared_front(*asset_, *before->asset_) : 0;
    std::vector<Vertex> vertices;
    std::vector<std::uint32_t> indices;
    std::size_t keptVertices = 0, keptIndices = 0;
    for (const Primitive& p : asset_->primitives) {
        slices_.push_back({static_cast<std::uint32_t>(keptIndices + indices.size()),
                           static_cast<std::uint32_t>(p.indices.size()),
                           static_cast<std::int32_t>(keptVertices + vertices.size())});
        if (slices_.size() <= kept) {
            keptVertices += p.vertices.size();
            keptIndices += p.indices.size();
            continue;
        }
        vertices.insert(vertices.end(), p.vertices.begin(), p.vertices.end());
        indices.insert(indices.end(), p.indices.begin(), p.indices.end());
    }
    if (kept > 0) {
        vertices_.upload_behind(before->vertices_, keptVertices * sizeof(Vertex), vertices.data(),
                                vertices.size() * sizeof(Vertex));
        indices_.upload_behind(before->indices_, keptIndices * 4, indices.data(), indices.size() * 4);
        return;
    }
    vertices_.upload(vertices.data(), vertices.size() * sizeof(Vertex));
    indices_.upload(indices.data(), indices.size() * 4);
}

SceneResources::SceneResources(std::shared_ptr<const SceneAsset> asset, SceneResources* before)
    : asset_(std::move(asset)) {
    upload_geometry(before);
    GLuint vao = 0;
    glCreateVertexArrays(1, &vao);
    vertexArray_ = VertexArray(vao);
    glObjectLabel(GL_VERTEX_ARRAY, vao, -1, "scene");
    glVertexArrayVertexBuffer(vao, 0, vertices_.name(), 0, sizeof(Vertex));
    glVertexArrayElementBuffer(vao, indices_.name());
    const struct {
        GLuint location;
        GLint count;
        GLenum type;
        GLboolean normalized;
        GLuint offset;
    } attributes[] = {{0, 3, GL_FLOAT, GL_FALSE, offsetof(Vertex, position)},
                      {1, 3, GL_FLOAT, GL_FALSE, offsetof(Vertex, normal)},
                      {2, 4, GL_FLOAT, GL_FALSE, offsetof(Vertex, tangent)},
                      {3, 2, GL_FLOAT, GL_FALSE, offsetof(Vertex, uv)},
                      {4, 4, GL_UNSIGNED_BYTE, GL_TRUE, offsetof(Vertex, color)}};
    for (const auto& a : attributes) {
        glEnableVertexArrayAttrib(vao, a.location);
        glVertexArrayAttribFormat(vao, a.location, a.count, a.type, a.normalized, a.offset);
        glVertexArrayAttribBinding(vao, a.location, 0);
    }
    glEnableVertexArrayAttrib(vao, 5);
    glVertexArrayAttribIFormat(vao, 5, 4, GL_UNSIGNED_INT, offsetof(InstanceData, number));
    glVertexArrayAttribBinding(vao, 5, 1);
    for (GLuint column = 0; column < 7; ++column) { // four of the model's, three of its normals'
        glEnableVertexArrayAttrib(vao, 6 + column);
        glVertexArrayAttribFormat(vao, 6 + column, 3, GL_FLOAT, GL_FALSE, column * sizeof(glm::vec3));
        glVertexArrayAttribBinding(vao, 6 + column, 1);
    }

    if (std::any_of(asset_->primitives.begin(), asset_->primitives.end(),
                    [](const Primitive& p) { return !p.places.empty(); })) {
        std::vector<glm::vec3> places;
        for (const Primitive& p : asset_->primitives) {
            places.insert(places.end(), p.places.begin(), p.places.end());
            places.resize(places.size() + p.vertices.size() - p.places.size(), glm::vec3(0.0f));
        }
        places_.upload(places.data(), places.size() * sizeof(glm::vec3));
        glVertexArrayVertexBuffer(vao, 2, places_.name(), 0, sizeof(glm::vec3));
        glEnableVertexArrayAttrib(vao, 13);
        glVertexArrayAttribFormat(vao, 13, 3, GL_FLOAT, GL_FALSE, 0);
        glVertexArrayAttribBinding(vao, 13, 2);
    }

    textures_.push_back(plain_texture("white", {255, 255, 255, 255}));
    textures_.push_back(plain_texture("flat normal", {128, 128, 255, 255}));
    make_materials(before);
    if (asset_->flat) make_sheets();
    if (asset_->rig && !asset_->rig->bodies.empty()) make_bodies();
}

void SceneResources::bind_meshes(GLuint instances, GLuint eyes) const {
    glBindVertexArray(vertexArray_.name());
    // As instanced attributes: GL 4.5 core has no base instance in GLSL.
    glVertexArrayVertexBuffer(vertexArray_.name(), 1, instances, 0, sizeof(InstanceData));
    glVertexArrayBindingDivisor(vertexArray_.name(), 1, eyes);
}

void SceneResources::make_materials(SceneResources* before) {
    auto texture_for = [&](int index, bool srgb) -> GLuint {
        const mirolux::Texture& source = asset_->textures[static_cast<std::size_t>(index)];
        const TextureImage& image = asset_->images[static_cast<std::size_t>(source.image)];
        if (image.rgba.empty()) return textures_[0].name();
        const TextureKey key{image.rgba.data(), srgb, source.linear, source.mipmaps, source.wrapU, source.wrapV};
        if (const auto it = made_.find(key); it != made_.end()) return it->second.name();
        if (before)
            if (auto taken = before->made_.extract(key); !taken.empty())
                return made_.insert(std::move(taken)).position->second.name();
        const int levels = source.mipmaps ? 1 + static_cast<int>(std::log2(std::max(image.width, image.height))) : 1;
        Texture t = make_texture(image.name, srgb ? GL_SRGB8_ALPHA8 : GL_RGBA8, image.width, image.height, levels);
        glTextureSubImage2D(t.name(), 0, 0, 0, image.width, image.height, GL_RGBA, GL_UNSIGNED_BYTE, image.rgba.data());
        if (levels > 1) glGenerateTextureMipmap(t.name());
        const GLint minify = levels > 1 ? (source.linear ? GL_LINEAR_MIPMAP_LINEAR : GL_NEAREST_MIPMAP_NEAREST)
                                        : (source.linear ? GL_LINEAR : GL_NEAREST);
        glTextureParameteri(t.name(), GL_TEXTURE_MIN_FILTER, minify);
        glTextureParameteri(t.name(), GL_TEXTURE_MAG_FILTER, source.linear ? GL_LINEAR : GL_NEAREST);
        glTextureParameteri(t.name(), GL_TEXTURE_WRAP_S, wrap_mode(source.wrapU));
        glTextureParameteri(t.name(), GL_TEXTURE_WRAP_T, wrap_mode(source.wrapV));
        return made_.emplace(key, std::move(t)).first->second.name();
    };
    std::vector<MaterialData> materials;
    for (const Material& m : asset_->materials) {
        std::array<GLuint, texture_slots> names;
        for (int s = 0; s < texture_slots; ++s) {
            const bool srgb =
                s == static_cast<int>(TextureSlot::baseColor) || s == static_cast<int>(TextureSlot::emissive);
            const GLuint missing = textures_[s == static_cast<int>(TextureSlot::normal) ? 1 : 0].name();
            names[static_cast<std::size_t>(s)] = m.textures[s] >= 0 ? texture_for(m.textures[s], srgb) : missing;
        }
        materialTextures_.push_back(names);
        MaterialData d{};
        d.baseColor = m.baseColor;
        d.emissive = m.emissive;
        d.alphaCutoff = m.alphaCutoff;
        d.metallic = m.metallic;
        d.roughness = m.roughness;
        d.normalScale = m.normalScale;
        d.occlusionStrength = m.occlusionStrength;
        auto has = [&](TextureSlot slot) { return m.textures[static_cast<int>(slot)] >= 0; };
        const bool shared =
            has(TextureSlot::occlusion) && m.textures[static_cast<int>(TextureSlot::occlusion)] ==
                                               m.textures[static_cast<int>(TextureSlot::metallicRoughness)];
        d.flags = (m.alphaMode == AlphaMode::mask ? 1u : 0u) | (m.unlit ? 2u : 0u) |
                  (has(TextureSlot::normal) ? 4u : 0u) | (has(TextureSlot::baseColor) ? 8u : 0u) |
                  (has(TextureSlot::metallicRoughness) ? 16u : 0u) |
                  (has(TextureSlot::occlusion) && !shared ? 32u : 0u) | (shared ? 64u : 0u) |
                  (has(TextureSlot::emissive) ? 128u : 0u) | (has(TextureSlot::thickness) ? 256u : 0u);
        d.optics = static_cast<std::uint32_t>(m.opticsNumber);
        materials.push_back(d);
    }
    materials_.upload(materials.data(), materials.size() * sizeof(MaterialData));
}

void SceneResources::make_bodies() {
    std::vector<float> rest, changes;
    std::vector<std::uint32_t> influences;
    for (const Body& b : asset_->rig->bodies) {
        const Primitive& p = asset_->primitives[static_cast<std::size_t>(b.primitive)];
        BodyData d{};
        d.firstVertex = static_cast<std::uint32_t>(slice(b.primitive).baseVertex);
        d.vertices = static_cast<std::uint32_t>(p.vertices.size());
        d.rest = static_cast<std::uint32_t>(rest.size());
        d.influences = static_cast<std::uint32_t>(influences.size());
        d.sets = static_cast<std::uint32_t>(b.bending->sets);
        d.changes = static_cast<std::uint32_t>(changes.size());
        d.shapes = static_cast<std::uint32_t>(b.bending->shapes);
        bodies_.push_back(d);
        for (const Vertex& v : p.vertices)
            rest.insert(rest.end(), {v.position.x, v.position.y, v.position.z, v.normal.x, v.normal.y, v.normal.z,
                                     v.tangent.x, v.tangent.y, v.tangent.z, v.tangent.w});
        for (std::size_t i = 0; i < b.bending->joints.size(); ++i) {
            const glm::u16vec4& j = b.bending->joints[i];
            influences.push_back(std::uint32_t(j.x) | std::uint32_t(j.y) << 16);
            influences.push_back(std::uint32_t(j.z) | std::uint32_t(j.w) << 16);
            for (int k = 0; k < 4; ++k)
                influences.push_back(std::bit_cast<std::uint32_t>(b.bending->shares[i][k]));
        }
        for (const ShapeChange& c : b.bending->changes)
            changes.insert(changes.end(), {c.position.x, c.position.y, c.position.z, c.normal.x, c.normal.y, c.normal.z,
                                           c.tangent.x, c.tangent.y, c.tangent.z});
    }
    rest_.upload(rest.data(), rest.size() * 4);
    influences_.upload(influences.data(), influences.size() * 4);
    shapeChanges_.upload(changes.data(), changes.size() * 4);
}

void SceneResources::make_sheets() {
    const auto texture = [&](int image, GLenum format) {
        const TextureImage& i = asset_->images[static_cast<std::size_t>(image)];
        if (i.rgba.empty()) return textures_[0].name();
        Texture t = make_texture(i.name, format, i.width, i.height);
        glTextureSubImage2D(t.name(), 0, 0, 0, i.width, i.height, GL_RGBA, GL_UNSIGNED_BYTE, i.rgba.data());
        glTextureParameteri(t.name(), GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        glTextureParameteri(t.name(), GL_TEXTURE_MAG_FILTER, GL_NEAREST);
        glTextureParameteri(t.name(), GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
        glTextureParameteri(t.name(), GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
        textures_.push_back(std::move(t));
        return textures_.back().name();
    };
    for (const flat::Sheet& s : asset_->flat->sheets)
        sheets_.push_back({texture(s.image, GL_SRGB8_ALPHA8),
                           s.normals >= 0 ? texture(s.normals, GL_RGBA8) : textures_[1].name(),
                           s.emission >= 0 ? texture(s.emission, GL_SRGB8_ALPHA8) : textures_[0].name()});
}

void SceneResources::bind_textures(int material, const GLint (&units)[texture_slots]) const {
    const auto& textures = materialTextures_[static_cast<std::size_t>(material)];
    for (int slot = 0; slot < texture_slots; ++slot)
        if (units[slot] >= 0)
            glBindTextureUnit(static_cast<GLuint>(units[slot]), textures[static_cast<std::size_t>(slot)]);
}

} // namespace mirolux::gpu
