#include "demo/glb_writer.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include <cstring>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/quaternion.hpp>

namespace mirolux::demo {

using nlohmann::json;

GlbWriter::GlbWriter() {
    json_["asset"] = {{"version", "2.0"}, {"generator", "mirolux-make-demo"}};
    json_["extensionsUsed"] = {"KHR_lights_punctual", "KHR_materials_clearcoat", "KHR_materials_emissive_strength",
                               "KHR_materials_ior"};
    json_["scene"] = 0;
    json_["scenes"] = json::array({{{"name", "Kestrel Quay"}, {"nodes", json::array()}}});
    for (const char* key :
         {"nodes", "meshes", "materials", "textures", "images", "accessors", "bufferViews", "cameras"})
        json_[key] = json::array();
    json_["samplers"] = json::array({{{"magFilter", 9729}, {"minFilter", 9987}, {"wrapS", 10497}, {"wrapT", 10497}}});
    json_["extensions"]["KHR_lights_punctual"]["lights"] = json::array();
}

int GlbWriter::view(const void* data, std::size_t bytes, int target) {
    while (binary_.size() % 4)
        binary_.push_back(0);
    json v = {{"buffer", 0}, {"byteOffset", binary_.size()}, {"byteLength", bytes}};
    if (target) v["target"] = target;
    json_["bufferViews"].push_back(v);
    const auto* p = static_cast<const std::uint8_t*>(data);
    binary_.insert(binary_.end(), p, p + bytes);
    return static_cast<int>(json_["bufferViews"].size()) - 1;
}

int GlbWriter::texture(const std::string& name, const ByteImage& image) {
    const auto png = encode_png(image);
    json_["images"].push_back(
        {{"name", name}, {"mimeType", "image/png"}, {"bufferView", view(png.data(), png.size(), 0)}});
    json_["textures"].push_back({{"source", json_["images"].size() - 1}, {"sampler", 0}});
    return static_cast<int>(json_["textures"].size()) - 1;
}

int GlbWriter::material(const json& material) {
    json_["materials"].push_back(material);
    return static_cast<int>(json_["materials"].size()) - 1;
}

int GlbWriter::mesh(const std::string& name, const MeshBuilder& builder) {
    json primitives = json::array();
    for (const auto& [material, part] : builder.parts()) {
        std::vector<float> positions, normals, uvs;
        Box box;
        for (const Vertex& v : part.vertices) {
            box.add(v.position);
            positions.insert(positions.end(), {v.position.x, v.position.y, v.position.z});
            normals.insert(normals.end(), {v.normal.x, v.normal.y, v.normal.z});
            uvs.insert(uvs.end(), {v.uv.x, v.uv.y});
        }
        auto accessor = [&](int bufferView, int type, std::size_t count, const char* shape) {
            json_["accessors"].push_back(
                {{"bufferView", bufferView}, {"componentType", type}, {"count", count}, {"type", shape}});
            return static_cast<int>(json_["accessors"].size()) - 1;
        };
        const std::size_t n = part.vertices.size();
        const int p = accessor(view(positions.data(), positions.size() * 4, 34962), 5126, n, "VEC3");
        json_["accessors"][p]["min"] = {box.low.x, box.low.y, box.low.z};
        json_["accessors"][p]["max"] = {box.high.x, box.high.y, box.high.z};
        const int q = accessor(view(normals.data(), normals.size() * 4, 34962), 5126, n, "VEC3");
        const int t = accessor(view(uvs.data(), uvs.size() * 4, 34962), 5126, n, "VEC2");
        int i;
        if (n <= 65535) {
            const std::vector<std::uint16_t> small(part.indices.begin(), part.indices.end());
            i = accessor(view(small.data(), small.size() * 2, 34963), 5123, small.size(), "SCALAR");
        } else
            i = accessor(view(part.indices.data(), part.indices.size() * 4, 34963), 5125, part.indices.size(),
                         "SCALAR");
        primitives.push_back({{"attributes", {{"POSITION", p}, {"NORMAL", q}, {"TEXCOORD_0", t}}},
                              {"indices", i},
                              {"material", material}});
    }
    json_["meshes"].push_back({{"name", name}, {"primitives", primitives}});
    return static_cast<int>(json_["meshes"].size()) - 1;
}

int GlbWriter::node(const std::string& name, int mesh, const glm::mat4& m) {
    json n = {{"name", name}};
    if (mesh >= 0) n["mesh"] = mesh;
    json matrix = json::array();
    for (int i = 0; i < 16; ++i)
        matrix.push_back(m[i / 4][i % 4]);
    if (m != glm::mat4(1.0f)) n["matrix"] = matrix;
    json_["nodes"].push_back(n);
    const int index = static_cast<int>(json_["nodes"].size()) - 1;
    json_["scenes"][0]["nodes"].push_back(index);
    return index;
}

static glm::mat4 looking(const glm::vec3& at, const glm::vec3& direction) {
    const glm::vec3 up = std::abs(direction.y) > 0.999f ? glm::vec3(0, 0, 1) : glm::vec3(0, 1, 0);
    return glm::inverse(glm::lookAt(at, at + direction, up));
}

int GlbWriter::light(const Light& l) {
    json& lights = json_["extensions"]["KHR_lights_punctual"]["lights"];
    const glm::vec3 color = effective_color(l);
    json entry = {
        {"name", l.name}, {"type", word(l.type)}, {"color", {color.r, color.g, color.b}}, {"intensity", l.intensity}};
    if (l.range > 0 && l.type != LightType::directional) entry["range"] = l.range;
    if (l.type == LightType::spot)
        entry["spot"] = {{"innerConeAngle", l.innerConeAngle}, {"outerConeAngle", l.outerConeAngle}};
    if (l.kelvin > 0) entry["extras"]["kelvin"] = l.kelvin;
    if (l.sourceSize > 0) entry["extras"]["sourceSize"] = l.sourceSize;
    lights.push_back(entry);
    const int index = node(l.name, -1, looking(l.position, l.direction));
    json_["nodes"][index]["extensions"]["KHR_lights_punctual"]["light"] = lights.size() - 1;
    return index;
}

void GlbWriter::camera(const Camera& c) {
    json_["cameras"].push_back(
        {{"name", c.name}, {"type", "perspective"}, {"perspective", {{"yfov", c.fovY}, {"znear", c.near}}}});
    const int index = node(c.name, -1, looking(c.eye, glm::normalize(c.aim - c.eye)));
    json_["nodes"][index]["camera"] = json_["cameras"].size() - 1;
}

Result<void> GlbWriter::write(const std::filesystem::path& path) {
    while (binary_.size() % 4)
        binary_.push_back(0);
    json_["buffers"] = json::array({{{"byteLength", binary_.size()}}});
    for (const char* key : {"meshes", "materials", "textures", "images", "cameras"})
        if (json_[key].empty()) json_.erase(key);
    std::string text = json_.dump();
    while (text.size() % 4)
        text += ' ';
    std::vector<std::uint8_t> out;
    auto word = [&](std::uint32_t v) {
        const auto* p = reinterpret_cast<const std::uint8_t*>(&v);
        out.insert(out.end(), p, p + 4);
    };
    word(0x46546C67u);
    word(2);
    word(static_cast<std::uint32_t>(12 + 8 + text.size() + 8 + binary_.size()));
    word(static_cast<std::uint32_t>(text.size()));
    word(0x4E4F534Au);
    out.insert(out.end(), text.begin(), text.end());
    word(static_cast<std::uint32_t>(binary_.size()));
    word(0x004E4942u);
    out.insert(out.end(), binary_.begin(), binary_.end());
    return write_file_atomically(path, out.data(), out.size());
}

} // namespace mirolux::demo
