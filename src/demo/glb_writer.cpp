#include "demo/glb_writer.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include <cstring>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/quaternion.hpp>

namespace mirolux::demo {

using nlohmann::json;

GlbWriter::GlbWriter() {
    b_.json["asset"] = {{"version", "2.0"}, {"generator", "mirolux-make-demo"}};
    b_.json["extensionsUsed"] = {"KHR_lights_punctual", "KHR_materials_clearcoat", "KHR_materials_emissive_strength",
                                 "KHR_materials_ior"};
    b_.json["scene"] = 0;
    b_.json["scenes"] = json::array({{{"name", "Kestrel Quay"}, {"nodes", json::array()}}});
    for (const char* key : {"nodes", "meshes", "materials", "textures", "images", "accessors", "bufferViews", "cameras",
                            "skins", "animations"})
        b_.json[key] = json::array();
    b_.json["samplers"] = json::array({{{"magFilter", 9729}, {"minFilter", 9987}, {"wrapS", 10497}, {"wrapT", 10497}}});
    b_.json["extensions"]["KHR_lights_punctual"]["lights"] = json::array();
}

int GlbWriter::texture(const std::string& name, const ByteImage& image) {
    const auto png = encode_png(image);
    b_.json["images"].push_back(
        {{"name", name}, {"mimeType", "image/png"}, {"bufferView", b_.view(png.data(), png.size())}});
    b_.json["textures"].push_back({{"source", b_.json["images"].size() - 1}, {"sampler", 0}});
    return static_cast<int>(b_.json["textures"].size()) - 1;
}

int GlbWriter::material(const json& material) {
    b_.json["materials"].push_back(material);
    return static_cast<int>(b_.json["materials"].size()) - 1;
}

int GlbWriter::mesh(const std::string& name, const MeshBuilder& builder, const Bends& bends) {
    json primitives = json::array();
    for (const auto& [material, part] : builder.parts()) {
        std::vector<float> positions, normals, uvs;
        for (const Vertex& v : part.vertices) {
            positions.insert(positions.end(), {v.position.x, v.position.y, v.position.z});
            normals.insert(normals.end(), {v.normal.x, v.normal.y, v.normal.z});
            uvs.insert(uvs.end(), {v.uv.x, v.uv.y});
        }
        const std::size_t n = part.vertices.size();
        const int p = b_.floats(positions, "VEC3", 3, 34962), q = b_.floats(normals, "VEC3", 3, 34962),
                  t = b_.floats(uvs, "VEC2", 2, 34962);
        int i;
        if (n <= 65535) {
            const std::vector<std::uint16_t> small(part.indices.begin(), part.indices.end());
            i = b_.accessor(b_.view(small.data(), small.size() * 2, 34963), 5123, small.size(), "SCALAR");
        } else
            i = b_.accessor(b_.view(part.indices.data(), part.indices.size() * 4, 34963), 5125, part.indices.size(),
                            "SCALAR");
        json attributes = {{"POSITION", p}, {"NORMAL", q}, {"TEXCOORD_0", t}};
        if (bends.follow) {
            std::vector<std::uint8_t> joints;
            std::vector<float> shares;
            for (const Vertex& v : part.vertices)
                for (const auto& [joint, share] : bends.follow(v)) {
                    joints.push_back(static_cast<std::uint8_t>(joint));
                    shares.push_back(share);
                }
            attributes["JOINTS_0"] = b_.accessor(b_.view(joints.data(), joints.size(), 34962), 5121, n, "VEC4");
            attributes["WEIGHTS_0"] = b_.floats(shares, "VEC4", 4);
        }
        json primitive = {{"attributes", attributes}, {"indices", i}, {"material", material}};
        for (const auto& shape : bends.shapes) {
            std::vector<float> moved, turned;
            for (const Vertex& v : part.vertices) {
                const Vertex there = shape(v);
                const glm::vec3 d = there.position - v.position, e = there.normal - v.normal;
                moved.insert(moved.end(), {d.x, d.y, d.z});
                turned.insert(turned.end(), {e.x, e.y, e.z});
            }
            primitive["targets"].push_back(
                {{"POSITION", b_.floats(moved, "VEC3", 3)}, {"NORMAL", b_.floats(turned, "VEC3", 3)}});
        }
        primitives.push_back(primitive);
    }
    json whole = {{"name", name}, {"primitives", primitives}};
    if (!bends.shapes.empty()) whole["weights"] = std::vector<float>(bends.shapes.size(), 0.0f);
    b_.json["meshes"].push_back(whole);
    return static_cast<int>(b_.json["meshes"].size()) - 1;
}

int GlbWriter::node(const std::string& name, int mesh, const glm::mat4& m) {
    json n = {{"name", name}};
    if (mesh >= 0) n["mesh"] = mesh;
    json matrix = json::array();
    for (int i = 0; i < 16; ++i)
        matrix.push_back(m[i / 4][i % 4]);
    if (m != glm::mat4(1.0f)) n["matrix"] = matrix;
    b_.json["nodes"].push_back(n);
    places_.emplace_back(m, -1);
    const int index = static_cast<int>(b_.json["nodes"].size()) - 1;
    hang(index, -1);
    return index;
}

void GlbWriter::hang(int node, int parent) {
    places_[static_cast<std::size_t>(node)].second = parent;
    (parent < 0 ? b_.json["scenes"][0]["nodes"] : b_.json["nodes"][parent]["children"]).push_back(node);
}

glm::mat4 GlbWriter::world(int node) const {
    const auto& [own, parent] = places_[static_cast<std::size_t>(node)];
    return parent < 0 ? own : world(parent) * own;
}

int GlbWriter::mover(const std::string& name, int mesh, const glm::vec3& t, const glm::quat& r, int parent) {
    json n = {{"name", name}, {"translation", {t.x, t.y, t.z}}};
    if (r != glm::quat(1, 0, 0, 0)) n["rotation"] = {r.x, r.y, r.z, r.w};
    if (mesh >= 0) n["mesh"] = mesh;
    b_.json["nodes"].push_back(n);
    places_.emplace_back(glm::translate(glm::mat4(1.0f), t) * glm::mat4_cast(r), -1);
    const int index = static_cast<int>(b_.json["nodes"].size()) - 1;
    hang(index, parent);
    return index;
}

void GlbWriter::skin(int node, const std::vector<int>& joints) {
    std::vector<float> toJoint;
    for (const int j : joints) {
        const glm::mat4 m = glm::inverse(world(j)) * world(node); // the mesh stands as its node does
        for (int k = 0; k < 16; ++k)
            toJoint.push_back(m[k / 4][k % 4]);
    }
    b_.json["skins"].push_back({{"joints", joints}, {"inverseBindMatrices", b_.floats(toJoint, "MAT4", 16)}});
    b_.json["nodes"][node]["skin"] = b_.json["skins"].size() - 1;
}

void GlbWriter::move(const std::string& clip, int node, const std::string& path, const Keys& keys) {
    json& clips = b_.json["animations"];
    std::size_t at = 0;
    while (at < clips.size() && clips[at]["name"] != clip)
        ++at;
    if (at == clips.size()) clips.push_back({{"name", clip}, {"samplers", json::array()}, {"channels", json::array()}});
    json& c = clips[at];
    const bool weights = path == "weights", turns = path == "rotation";
    c["samplers"].push_back({{"input", b_.floats(keys.times, "SCALAR", 1)},
                             {"output", weights ? b_.floats(keys.values, "SCALAR", 1)
                                                : b_.floats(keys.values, turns ? "VEC4" : "VEC3", turns ? 4 : 3)}});
    c["channels"].push_back({{"sampler", c["samplers"].size() - 1}, {"target", {{"node", node}, {"path", path}}}});
}

static glm::mat4 looking(const glm::vec3& at, const glm::vec3& direction) {
    const glm::vec3 up = std::abs(direction.y) > 0.999f ? glm::vec3(0, 0, 1) : glm::vec3(0, 1, 0);
    return glm::inverse(glm::lookAt(at, at + direction, up));
}

int GlbWriter::light(const Light& l, int parent) {
    json& lights = b_.json["extensions"]["KHR_lights_punctual"]["lights"];
    const glm::vec3 color = effective_color(l);
    json entry = {
        {"name", l.name}, {"type", word(l.type)}, {"color", {color.r, color.g, color.b}}, {"intensity", l.intensity}};
    if (l.range > 0 && l.type != LightType::directional) entry["range"] = l.range;
    if (l.type == LightType::spot)
        entry["spot"] = {{"innerConeAngle", l.innerConeAngle}, {"outerConeAngle", l.outerConeAngle}};
    if (l.kelvin > 0) entry["extras"]["kelvin"] = l.kelvin;
    if (l.sourceSize > 0) entry["extras"]["sourceSize"] = l.sourceSize;
    lights.push_back(entry);
    int index;
    if (parent < 0)
        index = node(l.name, -1, looking(l.position, l.direction));
    else
        index = mover(l.name, -1, l.position, glm::quat_cast(looking(glm::vec3(0.0f), l.direction)), parent);
    b_.json["nodes"][index]["extensions"]["KHR_lights_punctual"]["light"] = lights.size() - 1;
    return index;
}

void GlbWriter::camera(const Camera& c) {
    b_.json["cameras"].push_back(
        {{"name", c.name}, {"type", "perspective"}, {"perspective", {{"yfov", c.fovY}, {"znear", c.near}}}});
    const int index = node(c.name, -1, looking(c.eye, glm::normalize(c.aim - c.eye)));
    b_.json["nodes"][index]["camera"] = b_.json["cameras"].size() - 1;
}

Result<void> GlbWriter::write(const std::filesystem::path& path) {
    const auto out = b_.file();
    return write_file_atomically(path, out.data(), out.size());
}

} // namespace mirolux::demo
