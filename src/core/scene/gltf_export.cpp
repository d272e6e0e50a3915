#include "core/scene/gltf_export.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/motion/scene_at.h"
#include "core/scene/glb_builder.h"
#include <glm/gtc/quaternion.hpp>
#include <set>

namespace mirolux {

namespace {

Json numbers(const glm::dmat4& m) {
    Json out = Json::array();
    for (int k = 0; k < 16; ++k)
        out.push_back(m[k / 4][k % 4]);
    return out;
}
Json numbers(const glm::mat4& m) { // as single floats are written, so that they come back as they were
    Json out = Json::array();
    for (int k = 0; k < 16; ++k)
        out.push_back(m[k / 4][k % 4]);
    return out;
}

class Exporter {
public:
    Exporter(const Project& project, const std::shared_ptr<const SceneAsset>& asset)
        : project_(project), asset_(*asset), scene_(scene_on(project, asset, project.target)) {
        for (const char* list : {"nodes", "meshes", "materials", "textures", "images", "samplers", "accessors",
                                 "bufferViews", "cameras", "skins", "animations"})
            b_.json[list] = Json::array();
        b_.json["asset"] = {{"version", "2.0"}, {"generator", "Mirolux"}};
        b_.json["scene"] = 0;
        b_.json["scenes"] = Json::array({{{"name", project.name}, {"nodes", Json::array()}}});
    }

    Result<GltfExport> run() {
        // Without a pose: clips come along, and what they move stands where the file has it.
        if (scene_.placed && scene_.placed->pose) scene_.placed = scene_.placed->base;
        if (auto ok = write_textures(); !ok) return tl::unexpected(ok.error());
        for (std::size_t m = 0; m + 1 < asset_.materials.size(); ++m)
            b_.json["materials"].push_back(material(asset_.materials[m]));
        write_rig();
        write_objects();
        write_lights();
        write_cameras();
        write_clips();
        if (!extensions_.empty()) b_.json["extensionsUsed"] = extensions_;
        tell_of_the_rest();
        return GltfExport{b_.file(), std::move(warnings_)};
    }

private:
    // --- materials

    Result<void> write_textures() {
        for (const TextureImage& image : asset_.images) {
            if (image.rgba.empty())
                return fail("its pictures were not read, and a file without them would not look the same", asset_.path,
                            "Open the scene with its pictures.");
            const auto png = encode_png({image.width, image.height, image.rgba});
            b_.json["images"].push_back(
                {{"name", image.name}, {"mimeType", "image/png"}, {"bufferView", b_.view(png.data(), png.size())}});
        }
        const auto wrap = [](Wrap w) { return w == Wrap::clamp ? 33071 : w == Wrap::mirror ? 33648 : 10497; };
        for (const Texture& t : asset_.textures) {
            b_.json["samplers"].push_back(
                {{"wrapS", wrap(t.wrapU)},
                 {"wrapT", wrap(t.wrapV)},
                 {"magFilter", t.linear ? 9729 : 9728},
                 {"minFilter", t.mipmaps ? (t.linear ? 9987 : 9984) : (t.linear ? 9729 : 9728)}});
            Json j = {{"sampler", b_.json["samplers"].size() - 1}};
            if (t.image >= 0) j["source"] = t.image;
            b_.json["textures"].push_back(j);
        }
        return {};
    }

    Json& extension(Json& of, const char* name) {
        extensions_.insert(name);
        return of["extensions"][name];
    }

    Json material(const Material& m) {
        Json j = {{"name", m.name}};
        Json& p = j["pbrMetallicRoughness"];
        p = {{"baseColorFactor", to_array(m.baseColor)},
             {"metallicFactor", m.metallic},
             {"roughnessFactor", m.roughness}};
        const auto texture = [&](TextureSlot slot, Json& owner, const char* key) {
            const int t = m.textures[static_cast<int>(slot)];
            if (t >= 0) owner[key]["index"] = t;
            return t >= 0;
        };
        texture(TextureSlot::baseColor, p, "baseColorTexture");
        texture(TextureSlot::metallicRoughness, p, "metallicRoughnessTexture");
        if (texture(TextureSlot::normal, j, "normalTexture")) j["normalTexture"]["scale"] = m.normalScale;
        if (texture(TextureSlot::occlusion, j, "occlusionTexture"))
            j["occlusionTexture"]["strength"] = m.occlusionStrength;
        texture(TextureSlot::emissive, j, "emissiveTexture");
        const float strength = std::max({m.emissive.x, m.emissive.y, m.emissive.z});
        if (strength > 0) {
            const float factor = std::max(1.0f, strength); // emissiveFactor ends at 1
            j["emissiveFactor"] = to_array(m.emissive / factor);
            if (factor > 1) extension(j, "KHR_materials_emissive_strength")["emissiveStrength"] = factor;
        }
        if (m.alphaMode != AlphaMode::opaque) j["alphaMode"] = m.alphaMode == AlphaMode::mask ? "MASK" : "BLEND";
        if (m.alphaMode == AlphaMode::mask) j["alphaCutoff"] = m.alphaCutoff;
        if (m.doubleSided) j["doubleSided"] = true;
        if (m.unlit) extension(j, "KHR_materials_unlit") = Json::object();
        optics(m, j);
        return j;
    }

    void optics(const Material& m, Json& j) {
        const brdf::Optics plain, &o = m.optics;
        if (o.f0 != plain.f0 || o.f90 != plain.f90) {
            const glm::vec3 tint = o.f90 > 0 ? o.f0 / (0.04f * o.f90) : glm::vec3(1.0f);
            extension(j, "KHR_materials_specular") = {{"specularFactor", o.f90},
                                                      {"specularColorFactor", to_array(tint)}};
        }
        if (o.coat > 0)
            extension(j, "KHR_materials_clearcoat") = {{"clearcoatFactor", o.coat},
                                                       {"clearcoatRoughnessFactor", o.coatRoughness}};
        if (o.scatterDistance == glm::vec3(0.0f)) return;
        j["extras"] = {{"scatterDistance", to_array(o.scatterDistance)}, {"thickness", o.thickness}};
        if (const int t = m.textures[static_cast<int>(TextureSlot::thickness)]; t >= 0)
            j["extras"]["thicknessTexture"]["index"] = t;
    }

    // --- nodes that move

    int hang(Json node, int parent) {
        b_.json["nodes"].push_back(std::move(node));
        const int index = static_cast<int>(b_.json["nodes"].size()) - 1;
        (parent < 0 ? b_.json["scenes"][0]["nodes"] : b_.json["nodes"][static_cast<std::size_t>(parent)]["children"])
            .push_back(index);
        return index;
    }

    /// Models that move stand below a node that places them; found where all objects of one are placed alike.
    void find_lifts() {
        if (!asset_.built || !scene_.placed) return;
        std::set<int> apart;
        for (std::size_t o = 0; o < asset_.objects.size(); ++o) {
            const ObjectName& name = asset_.objectNames[o];
            if (name.thing < 0 || name.node < 0) continue;
            const glm::mat4 m = matrix_of(edit_of(scene_.placed->edits, asset_, static_cast<int>(o)));
            const auto [it, fresh] = lifts_.try_emplace(name.thing, m);
            if (!fresh && it->second != m) apart.insert(name.thing);
            const auto take_root = [&](int node) {
                while (asset_.rig->nodes[static_cast<std::size_t>(node)].parent >= 0)
                    node = asset_.rig->nodes[static_cast<std::size_t>(node)].parent;
                thingOfRoot_[node] = name.thing;
            };
            take_root(name.node);
            if (const int body = asset_.objects[o].body; body >= 0)
                if (const int skin = asset_.rig->bodies[static_cast<std::size_t>(body)].skin; skin >= 0)
                    for (const int joint : asset_.rig->skins[static_cast<std::size_t>(skin)].joints)
                        take_root(joint);
        }
        for (const int thing : apart)
            lifts_.erase(thing);
        std::erase_if(lifts_, [](const auto& lift) { return lift.second == glm::mat4(1.0f); });
    }
    /// What places an object's model; the identity of all else.
    glm::mat4 lift_of(std::size_t object) const {
        const auto it = lifts_.find(asset_.objectNames[object].thing);
        return it == lifts_.end() || asset_.objectNames[object].node < 0 ? glm::mat4(1.0f) : it->second;
    }
    /// The node that a root hangs below; -1: the scene itself.
    int lifting_node(int root) {
        const auto thing = thingOfRoot_.find(root);
        if (thing == thingOfRoot_.end()) return -1;
        const auto lift = lifts_.find(thing->second);
        if (lift == lifts_.end()) return -1;
        const auto [it, fresh] = liftNodes_.try_emplace(thing->second, -1);
        if (fresh)
            it->second = hang({{"name", asset_.built->things[static_cast<std::size_t>(thing->second)].name},
                               {"matrix", numbers(lift->second)}},
                              -1);
        return it->second;
    }

    /// Nodes that clips move, bones, and what hangs below them or holds them; in the file's order of parents first.
    void write_rig() {
        if (!asset_.rig) return;
        find_lifts();
        const Rig& rig = *asset_.rig;
        nodes_.assign(rig.nodes.size(), -1);
        std::vector<bool> wanted(rig.nodes.size(), false);
        for (const Clip& clip : rig.clips)
            for (const ClipChannel& c : clip.channels)
                if (c.what <= Animated::weights) wanted[static_cast<std::size_t>(c.target)] = true;
        for (const Body& b : rig.bodies) {
            wanted[static_cast<std::size_t>(b.node)] = true;
            if (b.skin >= 0)
                for (const int j : rig.skins[static_cast<std::size_t>(b.skin)].joints)
                    wanted[static_cast<std::size_t>(j)] = true;
        }
        for (const int n : rig.order) { // below
            const int parent = rig.nodes[static_cast<std::size_t>(n)].parent;
            if (parent >= 0 && wanted[static_cast<std::size_t>(parent)]) wanted[static_cast<std::size_t>(n)] = true;
        }
        for (auto n = rig.order.rbegin(); n != rig.order.rend(); ++n) { // above
            const int parent = rig.nodes[static_cast<std::size_t>(*n)].parent;
            if (parent >= 0 && wanted[static_cast<std::size_t>(*n)]) wanted[static_cast<std::size_t>(parent)] = true;
        }
        for (const int n : rig.order) {
            const auto i = static_cast<std::size_t>(n);
            if (!wanted[i]) continue;
            const Node& node = rig.nodes[i];
            Json j = {{"name", node.name}};
            if (node.matrix)
                j["matrix"] = numbers(*node.matrix);
            else {
                const auto& t = node.translation;
                const auto& q = node.rotation;
                if (t != glm::dvec3(0.0)) j["translation"] = {t.x, t.y, t.z};
                if (q != glm::dquat(1, 0, 0, 0)) j["rotation"] = {q.x, q.y, q.z, q.w};
                if (node.scale != glm::dvec3(1.0)) j["scale"] = {node.scale.x, node.scale.y, node.scale.z};
            }
            nodes_[i] =
                hang(std::move(j), node.parent < 0 ? lifting_node(n) : nodes_[static_cast<std::size_t>(node.parent)]);
        }
        for (const Skin& skin : rig.skins) {
            Json joints = Json::array();
            std::vector<float> toJoint;
            bool whole = true;
            for (std::size_t k = 0; k < skin.joints.size(); ++k) {
                whole = whole && nodes_[static_cast<std::size_t>(skin.joints[k])] >= 0;
                joints.push_back(nodes_[static_cast<std::size_t>(skin.joints[k])]);
                for (int c = 0; c < 16; ++c)
                    toJoint.push_back(static_cast<float>(skin.toJoint[k][c / 4][c % 4]));
            }
            skins_.push_back(whole ? static_cast<int>(b_.json["skins"].size())
                                   : -1); // one that no object has is left out
            if (whole)
                b_.json["skins"].push_back(
                    {{"name", skin.name}, {"joints", joints}, {"inverseBindMatrices", b_.floats(toJoint, "MAT4", 16)}});
        }
    }

    /// The written node of one of the file's, if it may move; -1.
    int moving(int node) const {
        return node >= 0 && static_cast<std::size_t>(node) < nodes_.size() ? nodes_[static_cast<std::size_t>(node)]
                                                                           : -1;
    }

    // --- objects

    Json primitive(int index, const Body* body) {
        const Primitive& p = asset_.primitives[static_cast<std::size_t>(index)];
        Json& kept = primitives_[index];
        if (!kept.is_null()) return kept;
        std::vector<float> positions, normals, tangents, uvs;
        std::vector<std::uint32_t> colors;
        bool colored = false;
        for (const Vertex& v : p.vertices) {
            positions.insert(positions.end(), {v.position.x, v.position.y, v.position.z});
            normals.insert(normals.end(), {v.normal.x, v.normal.y, v.normal.z});
            tangents.insert(tangents.end(), {v.tangent.x, v.tangent.y, v.tangent.z, v.tangent.w});
            uvs.insert(uvs.end(), {v.uv.x, v.uv.y});
            colors.push_back(v.color);
            colored = colored || v.color != 0xFFFFFFFFu;
        }
        Json attributes = {{"POSITION", b_.floats(positions, "VEC3", 3, 34962)},
                           {"NORMAL", b_.floats(normals, "VEC3", 3, 34962)},
                           {"TANGENT", b_.floats(tangents, "VEC4", 4, 34962)},
                           {"TEXCOORD_0", b_.floats(uvs, "VEC2", 2, 34962)}};
        if (!p.secondUv.empty()) {
            std::vector<float> second;
            for (const glm::vec2& uv : p.secondUv)
                second.insert(second.end(), {uv.x, uv.y});
            attributes["TEXCOORD_1"] = b_.floats(second, "VEC2", 2, 34962);
        }
        if (colored) {
            attributes["COLOR_0"] =
                b_.accessor(b_.view(colors.data(), colors.size() * 4, 34962), 5121, colors.size(), "VEC4");
            b_.json["accessors"].back()["normalized"] = true;
        }
        kept = {{"attributes", attributes},
                {"indices", b_.accessor(b_.view(p.indices.data(), p.indices.size() * 4, 34963), 5125, p.indices.size(),
                                        "SCALAR")}};
        if (p.material >= 0) kept["material"] = p.material;
        if (body) bend(*body, p, kept);
        return kept;
    }

    void bend(const Body& body, const Primitive& p, Json& j) {
        const Bending& b = *body.bending;
        const auto sets = static_cast<std::size_t>(b.sets);
        for (std::size_t s = 0; s < sets; ++s) {
            std::vector<std::uint16_t> joints;
            std::vector<float> shares;
            for (std::size_t v = 0; v < p.vertices.size(); ++v)
                for (int k = 0; k < 4; ++k) {
                    joints.push_back(b.joints[v * sets + s][k]);
                    shares.push_back(b.shares[v * sets + s][k]);
                }
            const std::string n = std::to_string(s);
            j["attributes"]["JOINTS_" + n] =
                b_.accessor(b_.view(joints.data(), joints.size() * 2, 34962), 5123, p.vertices.size(), "VEC4");
            j["attributes"]["WEIGHTS_" + n] = b_.floats(shares, "VEC4", 4, 34962);
        }
        for (std::size_t s = 0; s < static_cast<std::size_t>(b.shapes); ++s) {
            std::vector<float> parts[3];
            for (std::size_t v = 0; v < p.vertices.size(); ++v) {
                const ShapeChange& c = b.changes[s * p.vertices.size() + v];
                const glm::vec3* values[] = {&c.position, &c.normal, &c.tangent};
                for (int k = 0; k < 3; ++k)
                    parts[k].insert(parts[k].end(), {values[k]->x, values[k]->y, values[k]->z});
            }
            j["targets"].push_back({{"POSITION", b_.floats(parts[0], "VEC3", 3, 34962)},
                                    {"NORMAL", b_.floats(parts[1], "VEC3", 3, 34962)},
                                    {"TANGENT", b_.floats(parts[2], "VEC3", 3, 34962)}});
        }
    }

    /// Objects of one node in one place are the parts of one mesh.
    void write_objects() {
        const std::vector<Object>& objects = scene_.objects();
        std::map<std::vector<int>, int> meshes; // by primitives
        for (std::size_t o = 0; o < asset_.objects.size();) {
            const Object& first = objects[o];
            const int node = o < asset_.objectNames.size() ? asset_.objectNames[o].node : -1;
            std::vector<int> parts;
            std::vector<const Body*> bodies;
            std::size_t next = o;
            for (; next < asset_.objects.size() && asset_.objectNames[next].node == node &&
                   objects[next].transform == first.transform && objects[next].hidden == first.hidden &&
                   (next == o || node >= 0) && !(next > o && is_first_part(next));
                 ++next) {
                parts.push_back(objects[next].primitive);
                bodies.push_back(objects[next].body < 0
                                     ? nullptr
                                     : &asset_.rig->bodies[static_cast<std::size_t>(objects[next].body)]);
                odd_ += objects[next].casts != Casting::yes || !objects[next].receives;
            }
            if (!first.hidden) write_object(o, parts, bodies, meshes);
            hidden_ += first.hidden;
            o = next;
        }
    }
    /// Of a node that shows its mesh often each showing begins with the mesh's first part.
    bool is_first_part(std::size_t object) const {
        return asset_.objectNames[object].id.find('#') == std::string::npos;
    }

    void write_object(std::size_t o, const std::vector<int>& parts, const std::vector<const Body*>& bodies,
                      std::map<std::vector<int>, int>& meshes) {
        const ObjectName& name = asset_.objectNames[o];
        const auto [mesh, fresh] = meshes.try_emplace(parts, static_cast<int>(b_.json["meshes"].size()));
        if (fresh) {
            Json list = Json::array();
            for (std::size_t k = 0; k < parts.size(); ++k)
                list.push_back(primitive(parts[k], bodies[k]));
            b_.json["meshes"].push_back({{"name", name.name}, {"primitives", list}});
        }
        const int carrier = moving(name.node);
        const glm::mat4 lift = lift_of(o), &now = scene_.objects()[o].transform,
                        file =
                            lift == glm::mat4(1.0f) ? asset_.objects[o].transform : lift * asset_.objects[o].transform;
        if (carrier < 0) {
            Json j = {{"name", name.name}, {"mesh", mesh->second}};
            if (now != glm::mat4(1.0f)) j["matrix"] = numbers(now);
            hang(std::move(j), -1);
            return;
        }
        const Body* body = bodies.front();
        const bool instanced = asset_.rig->instances.count(static_cast<int>(o)) > 0;
        const bool placed = now != file;
        Json* owner = &b_.json["nodes"][static_cast<std::size_t>(carrier)];
        if (body && placed) edited_ += 1; // bones know nothing of an edit on top
        if (!body && (placed || instanced)) {
            // Below its node, where that stands at rest.
            const glm::dmat4 local =
                glm::inverse(glm::dmat4(lift) * asset_.rig->rest->world[static_cast<std::size_t>(name.node)]) *
                glm::dmat4(now);
            edited_ += placed;
            const int child = hang({{"name", name.name}, {"matrix", numbers(local)}}, carrier);
            owner = &b_.json["nodes"][static_cast<std::size_t>(child)];
        }
        (*owner)["mesh"] = mesh->second;
        if (!body) return;
        if (body->skin >= 0) (*owner)["skin"] = skins_[static_cast<std::size_t>(body->skin)];
        const auto& weights = asset_.rig->nodes[static_cast<std::size_t>(body->node)].weights;
        if (!weights.empty()) (*owner)["weights"] = weights;
    }

    // --- lights and cameras

    static glm::mat4 looking(const glm::vec3& at, const glm::vec3& toward) {
        const glm::vec3 z = -glm::normalize(toward),
                        up = std::abs(z.y) > 0.999f ? glm::vec3(0, 0, 1) : glm::vec3(0, 1, 0),
                        x = glm::normalize(glm::cross(up, z));
        return {glm::vec4(x, 0), glm::vec4(glm::cross(z, x), 0), glm::vec4(z, 0), glm::vec4(at, 1)};
    }

    void place(Json node, const glm::mat4& world, int fileNode, bool moved) {
        const int carrier = moving(fileNode);
        if (carrier >= 0 && !moved) { // the node itself
            b_.json["nodes"][static_cast<std::size_t>(carrier)].update(node, true);
            return;
        }
        node["matrix"] = carrier < 0
                             ? numbers(world)
                             : numbers(glm::inverse(asset_.rig->rest->world[static_cast<std::size_t>(fileNode)]) *
                                       glm::dmat4(world));
        hang(std::move(node), carrier);
    }

    void write_lights() {
        Json list = Json::array();
        for (const Light& l : scene_.lights) {
            if (!l.enabled) {
                ++off_;
                continue;
            }
            const glm::vec3 color = effective_color(l);
            Json j = {{"name", l.name}, {"type", word(l.type)}, {"color", to_array(color)}, {"intensity", l.intensity}};
            if (l.range > 0 && l.type != LightType::directional) j["range"] = l.range;
            if (l.type == LightType::spot)
                j["spot"] = {{"innerConeAngle", l.innerConeAngle}, {"outerConeAngle", l.outerConeAngle}};
            if (l.kelvin > 0) j["extras"]["kelvin"] = l.kelvin;
            if (l.sourceSize > 0) j["extras"]["sourceSize"] = l.sourceSize;
            if (l.unit == IntensityUnit::lumen) j["extras"]["unit"] = "lm";
            const Light* own = nullptr;
            for (const Light& f : asset_.lights)
                if (f.id == l.id) own = &f;
            if (own && asset_.rig)
                lightOf_[asset_.rig->nodes[static_cast<std::size_t>(l.id)].light] = static_cast<int>(list.size());
            Json node = {{"name", l.name}};
            node["extensions"]["KHR_lights_punctual"]["light"] = list.size();
            list.push_back(j);
            place(std::move(node), looking(l.position, l.direction), own ? l.id : -1,
                  !own || own->position != l.position || own->direction != l.direction);
            odd_ += l.fadeOuter > 0 || l.diffuseShare != 1 || l.specularShare != 1 || !(l.shadow == LightShadow{}) ||
                    l.airShare || !(l.beam == LightBeam{});
        }
        if (list.empty()) return;
        extensions_.insert("KHR_lights_punctual");
        b_.json["extensions"]["KHR_lights_punctual"]["lights"] = std::move(list);
    }

    void write_cameras() {
        for (const Camera& c : project_.cameras) {
            int node = -1;
            for (std::size_t k = 0; asset_.rig && k < asset_.cameras.size(); ++k)
                for (std::size_t n = 0; n < asset_.rig->nodes.size() && asset_.cameras[k] == c; ++n)
                    if (asset_.rig->nodes[n].placed && asset_.rig->nodes[n].camera == static_cast<int>(k))
                        node = static_cast<int>(n);
            b_.json["cameras"].push_back(
                {{"name", c.name}, {"type", "perspective"}, {"perspective", {{"yfov", c.fovY}, {"znear", c.near}}}});
            place({{"name", c.name}, {"camera", b_.json["cameras"].size() - 1}}, looking(c.eye, c.aim - c.eye), node,
                  false);
        }
    }

    // --- clips

    std::optional<Json> target(const ClipChannel& c) {
        static const char* paths[] = {"translation", "rotation", "scale", "weights"};
        if (c.what <= Animated::weights) {
            const int node = nodes_[static_cast<std::size_t>(c.target)];
            return Json{{"node", node}, {"path", paths[static_cast<int>(c.what)]}};
        }
        const auto light = lightOf_.find(c.target);
        if (light == lightOf_.end()) return std::nullopt; // it is gone or off
        static const char* values[] = {"color", "intensity", "range", "spot/innerConeAngle", "spot/outerConeAngle"};
        Json out = {{"path", "pointer"}};
        extension(out, "KHR_animation_pointer")["pointer"] =
            "/extensions/KHR_lights_punctual/lights/" + std::to_string(light->second) + "/" +
            values[static_cast<int>(c.what) - static_cast<int>(Animated::lightColor)];
        return out;
    }

    void write_clips() {
        if (!asset_.rig) return;
        static const char* ways[] = {"LINEAR", "STEP", "CUBICSPLINE"};
        for (const Clip& clip : asset_.rig->clips) {
            Json samplers = Json::array(), channels = Json::array();
            for (const ClipChannel& c : clip.channels) {
                const auto to = target(c);
                if (!to) continue;
                const bool scalars = c.what == Animated::weights || c.what >= Animated::lightCandela;
                const int components = scalars ? 1 : c.what == Animated::rotation ? 4 : 3;
                channels.push_back({{"sampler", samplers.size()}, {"target", *to}});
                samplers.push_back({{"input", b_.floats(c.track.times, "SCALAR", 1)},
                                    {"output", b_.floats(c.track.values,
                                                         components == 1   ? "SCALAR"
                                                         : components == 3 ? "VEC3"
                                                                           : "VEC4",
                                                         components)},
                                    {"interpolation", ways[static_cast<int>(c.track.interpolation)]}});
            }
            if (!channels.empty())
                b_.json["animations"].push_back({{"name", clip.name}, {"samplers", samplers}, {"channels", channels}});
        }
    }

    void tell_of_the_rest() {
        const auto told = [&](std::size_t n, const std::string& one, const std::string& many) {
            if (n > 0) warnings_.push_back(fmt::format("{} {}", n, n == 1 ? one : many));
        };
        told(hidden_, "hidden object is left out", "hidden objects are left out");
        told(off_, "light that is off is left out", "lights that are off are left out");
        told(odd_, "object or light has shadows, fading or shares of its own, which glTF has no words for",
             "objects or lights have shadows, fading or shares of their own, which glTF has no words for");
        told(edited_, "moving object was placed by hand: it stands there at rest, but goes its file's way",
             "moving objects were placed by hand: they stand there at rest, but go their file's way");
        told(project_.motions.size(), "light sweeps, blinks or shuttles by the project: it stands still in the file",
             "lights sweep, blink or shuttle by the project: they stand still in the file");
        told(project_.volumes.size() + project_.cheapLights.size() + project_.probes.size(),
             "cloud, cheap light or probe stays in the project", "clouds, cheap lights and probes stay in the project");
        std::size_t proxies = 0;
        for (const ObjectEdit& e : project_.objects)
            proxies += e.proxy;
        told(proxies, "box that casts in place of others stays in the project",
             "boxes that cast in place of others stay in the project");
    }

    const Project& project_;
    const SceneAsset& asset_;
    Scene scene_;
    gltf::GlbBuilder b_;
    std::set<std::string> extensions_;
    std::map<int, glm::mat4> lifts_;             // by thing
    std::map<int, int> thingOfRoot_, liftNodes_; // by node; by thing
    std::vector<int> nodes_, skins_;             // written, by the file's
    std::map<int, Json> primitives_;
    std::map<int, int> lightOf_; // written light by the file's
    std::size_t hidden_ = 0, off_ = 0, odd_ = 0, edited_ = 0;
    std::vector<std::string> warnings_;
};

} // namespace

Result<GltfExport> export_gltf(const Project& project, const std::shared_ptr<const SceneAsset>& asset) {
    if (project.flat || project.blocks)
        return fail(std::string("glTF holds meshes, and this stage is ") + (project.flat ? "Flat" : "of Blocks"),
                    asset->path, "Save the project: it keeps all of it.");
    return Exporter(project, asset).run();
}

Result<std::vector<std::string>> export_gltf(const Project& project, const std::shared_ptr<const SceneAsset>& asset,
                                             const std::filesystem::path& file) {
    auto made = export_gltf(project, asset);
    if (!made) return tl::unexpected(made.error());
    if (auto ok = write_file_atomically(file, made->bytes.data(), made->bytes.size()); !ok)
        return tl::unexpected(ok.error());
    return std::move(made->warnings);
}

} // namespace mirolux
