#include "core/scene/gltf_import.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/motion/body_bounds.h"
#include "core/scene/geometry.h"
#include "core/scene/gltf_file.h"
#include "core/scene/gltf_materials.h"
#include "core/scene/gltf_packed.h"
#include "core/scene/gltf_rig.h"
#include "core/scene/object_edit.h"
#include <atomic>
#include <glm/gtc/quaternion.hpp>
#include <set>
#include <thread>
#include <unordered_map>
#include <unordered_set>

namespace mirolux {

namespace {

using gltf::File;

class Importer {
public:
    Importer(const std::filesystem::path& path, const ImportOptions& options)
        : file_(path, options.memoryLimit ? options.memoryLimit : machine_memory() / 8), options_(options) {
        asset_.path = path.string();
    }

    SceneAsset run() {
        check_version();
        check_extensions();
        read_images();
        read_textures();
        uvTransforms_ = gltf::read_materials(file_, asset_);
        read_variants();
        read_meshes();
        read_nodes();
        finish_rig();
        for (const Object& o : asset_.objects)
            asset_.bounds.add(o.bounds);
        asset_.choice = options_.choice;
        Digest digest; // another choice is another scene
        digest.value = file_.digest();
        for (const std::string* part : {&asset_.choice.scene, &asset_.choice.variant})
            if (!part->empty()) digest.add(part->c_str(), part->size() + 1);
        asset_.digest = digest.value;
        asset_.fileDigest = file_.file_digest();
        asset_.warnings = file_.warnings();
        return std::move(asset_);
    }

private:
    void check_version() {
        const JsonCursor about = file_.root()["asset"];
        const std::string version = about["version"].text();
        if (version.rfind("2.", 0) != 0)
            about["version"].complain("is \"" + version + "\"; glTF 2.x can be read", "Export as glTF 2.0.");
        if (about.has("minVersion") && about["minVersion"].text() != "2.0")
            about["minVersion"].complain("is \"" + about["minVersion"].text() + "\"; this reader knows 2.0",
                                         "Export as glTF 2.0.");
    }

    void check_extensions() {
        const JsonCursor required = file_.root().list("extensionsRequired");
        for (std::size_t i = 0; i < required.size(); ++i)
            if (!gltf::understood_extensions().contains(required.at(i).text()))
                required.at(i).complain("the file requires " + required.at(i).text() + ", which is not supported",
                                        "Export without this extension.");
        const JsonCursor used = file_.root().list("extensionsUsed");
        for (std::size_t i = 0; i < used.size(); ++i)
            if (!gltf::understood_extensions().contains(used.at(i).text()))
                file_.warn(used.at(i).pointer(), used.at(i).text() + " is not supported and is ignored");
    }

    void read_images() {
        const JsonCursor images = file_.root().list("images");
        asset_.images.resize(images.size());
        asset_.picturesRead = options_.decodeImages;
        if (!options_.decodeImages) return;
        std::vector<gltf::Bytes> encoded(images.size());
        for (std::size_t i = 0; i < images.size(); ++i) {
            const JsonCursor image = images.at(i);
            asset_.images[i].name = image.text("name", "image " + std::to_string(i));
            if (image.has("bufferView")) {
                const auto bytes = file_.view(image.index("bufferView", file_.root().list("bufferViews").size()));
                encoded[i].assign(bytes.begin(), bytes.end());
            } else
                encoded[i] = file_.resource(image["uri"]);
            const auto size = encoded_image_size(encoded[i]);
            if (!size)
                image.complain("is not a PNG, JPEG or WebP that can be read: " + size.error().what,
                               "Use PNG, JPEG or WebP.");
            if (size->first > 16384 || size->second > 16384) image.complain("is larger than 16384 pixels on a side");
            // The encoded copy, the inflated rows and the picture are all there at once.
            file_.spend(encoded[i].size() + std::size_t(8) * size->first * size->second, image);
        }
        // Decoding dominates the time to open a textured scene; pictures are independent of each other.
        std::atomic<std::size_t> next{0};
        std::vector<std::string> failures(images.size());
        auto work = [&] {
            for (std::size_t i; (i = next++) < encoded.size();) {
                auto decoded = decode_image(encoded[i]);
                if (!decoded)
                    failures[i] = decoded.error().what;
                else {
                    asset_.images[i].width = decoded->width;
                    asset_.images[i].height = decoded->height;
                    asset_.images[i].rgba = std::move(decoded->rgba);
                }
            }
        };
        std::thread other(work);
        work();
        other.join();
        for (std::size_t i = 0; i < failures.size(); ++i)
            if (!failures[i].empty())
                images.at(i).complain("cannot be decoded: " + failures[i],
                                      "Save the picture again as PNG, JPEG or WebP.");
    }

    void read_textures() {
        const JsonCursor textures = file_.root().list("textures"), samplers = file_.root().list("samplers");
        auto wrap = [](const JsonCursor& s, const char* key) {
            switch (s.whole(key, 10497)) {
            case 33071:
                return Wrap::clamp;
            case 33648:
                return Wrap::mirror;
            case 10497:
                return Wrap::repeat;
            default:
                s[key].complain("is not one of glTF's wrap modes");
            }
        };
        for (std::size_t i = 0; i < textures.size(); ++i) {
            const JsonCursor t = textures.at(i);
            Texture texture;
            texture.image = t.index("source", asset_.images.size());
            static const char* webp = "EXT_texture_webp";
            if (t.has("extensions") && t["extensions"].has(webp))
                texture.image = t["extensions"][webp].index("source", asset_.images.size());
            if (texture.image < 0) file_.warn(t.pointer(), "has no image source; it reads as white");
            const int s = t.index("sampler", samplers.size());
            if (s >= 0) {
                const JsonCursor sampler = samplers.at(s);
                texture.wrapU = wrap(sampler, "wrapS");
                texture.wrapV = wrap(sampler, "wrapT");
                const auto minify = sampler.whole("minFilter", 9987);
                texture.linear = minify != 9728 && minify != 9984 && minify != 9986;
                texture.mipmaps = minify >= 9984;
            }
            asset_.textures.push_back(texture);
        }
    }

    /// The names of something in a list, each once.
    static std::vector<std::string> names_of(const JsonCursor& list, const std::string& usual) {
        std::vector<std::string> out;
        for (std::size_t i = 0; i < list.size(); ++i) {
            const std::string name = list.at(i).text("name", usual + " " + std::to_string(i + 1));
            std::string own = name;
            for (int n = 2; std::find(out.begin(), out.end(), own) != out.end(); ++n)
                own = name + "~" + std::to_string(n);
            out.push_back(own);
        }
        return out;
    }
    /// The place of a chosen name; -1, and warned of: the file does not have it.
    int chosen(const std::vector<std::string>& names, const std::string& name, const char* pointer) {
        if (name.empty()) return -1;
        const auto it = std::find(names.begin(), names.end(), name);
        if (it != names.end()) return static_cast<int>(it - names.begin());
        file_.warn(pointer, "has no \"" + name + "\": it is shown as the file has it");
        return -1;
    }

    void read_variants() {
        static const char* name = "KHR_materials_variants";
        const JsonCursor root = file_.root();
        if (!root.has("extensions") || !root["extensions"].has(name)) return;
        asset_.variantNames = names_of(root["extensions"][name].list("variants"), "variant");
        variant_ = chosen(asset_.variantNames, options_.choice.variant, "/extensions/KHR_materials_variants/variants");
    }

    /// The primitive's material in the chosen variant.
    int material_of(const JsonCursor& p) {
        const std::size_t count = asset_.materials.size() - 1;
        static const char* name = "KHR_materials_variants";
        if (variant_ >= 0 && p.has("extensions") && p["extensions"].has(name)) {
            const JsonCursor mappings = p["extensions"][name].list("mappings");
            for (std::size_t i = 0; i < mappings.size(); ++i) {
                const JsonCursor variants = mappings.at(i).list("variants");
                for (std::size_t k = 0; k < variants.size(); ++k) {
                    const auto v = variants.at(k).whole(0x7FFFFFFF);
                    if (v >= asset_.variantNames.size())
                        variants.at(k).complain("variant " + std::to_string(v) + " does not exist");
                    if (static_cast<int>(v) == variant_) return mappings.at(i).index("material", count);
                }
            }
        }
        return p.index("material", count);
    }

    void read_meshes() {
        const JsonCursor meshes = file_.root().list("meshes");
        for (std::size_t i = 0; i < meshes.size(); ++i) {
            const JsonCursor mesh = meshes.at(i);
            std::vector<int> made;
            const JsonCursor parts = mesh["primitives"];
            if (!parts.json().is_array() || parts.size() == 0)
                parts.complain("must be an array with at least one primitive");
            for (std::size_t k = 0; k < parts.size(); ++k) {
                Primitive primitive;
                bending_ = nullptr;
                if (!read_primitive(parts.at(k), primitive)) continue;
                made.push_back(static_cast<int>(asset_.primitives.size()));
                if (bending_) {
                    gltf::find_reach(*bending_, primitive, 0);
                    bendings_[made.back()] = std::move(bending_);
                }
                asset_.primitives.push_back(std::move(primitive));
            }
            meshPrimitives_.push_back(made);
        }
    }

    /// What Draco packs of a primitive stands for its accessors' values.
    void supply_packed(const JsonCursor& p) {
        static const char* name = "KHR_draco_mesh_compression";
        if (!p.has("extensions") || !p["extensions"].has(name)) return;
        const JsonCursor packed = p["extensions"][name], attributes = p["attributes"];
        if (p.whole("mode", 4) != 4) p["mode"].complain("of a compressed primitive must be triangles");
        const int view = packed.index("bufferView", file_.root().list("bufferViews").size());
        if (view < 0) packed.complain("lacks \"bufferView\"");
        gltf::DracoMesh mesh = gltf::unpack_draco(packed, file_.view(view));
        file_.spend((mesh.indices.size() + 16 * mesh.vertices) * sizeof(double), packed);
        for (auto& [attribute, values] : mesh.attributes)
            if (attributes.has(attribute.c_str()))
                file_.supply(attributes[attribute.c_str()], std::move(values.values), values.components,
                             values.normalized);
        if (!p.has("indices")) p.complain("of a compressed primitive lacks \"indices\"");
        file_.supply(p["indices"], std::move(mesh.indices), 1, true);
    }

    bool read_primitive(const JsonCursor& p, Primitive& primitive) {
        const auto mode = p.whole("mode", 4, 255);
        if (mode > 6) p["mode"].complain("is not one of glTF's");
        if (mode < 4) {
            file_.warn(p.pointer() + "/mode", "points and lines are not drawn");
            return false;
        }
        const JsonCursor attributes = p["attributes"];
        if (!attributes.has("POSITION")) {
            file_.warn(attributes.pointer(), "has no POSITION and is not drawn");
            return false;
        }
        supply_packed(p);
        std::size_t count = 0;
        const auto positions = file_.floats(attributes["POSITION"], 3, count);
        file_.spend(2 * count * sizeof(Vertex), p); // here and on the device
        primitive.vertices.resize(count);
        for (std::size_t i = 0; i < count; ++i)
            primitive.vertices[i].position = {positions[3 * i], positions[3 * i + 1], positions[3 * i + 2]};
        auto read = [&](const char* name, int components, auto&& put) {
            if (!attributes.has(name)) return false;
            std::size_t n = 0;
            const auto v = file_.floats(attributes[name], components, n);
            if (n != count)
                attributes[name].complain("has " + std::to_string(n) + " elements where POSITION has " +
                                          std::to_string(count));
            for (std::size_t i = 0; i < n; ++i)
                put(primitive.vertices[i], v.data() + i * components);
            return true;
        };
        const bool normals = read("NORMAL", 3, [](Vertex& v, const float* f) {
            const glm::vec3 n(f[0], f[1], f[2]);
            const float l = glm::length(n);
            v.normal = l > 1e-12f && std::isfinite(l) ? n / l : glm::vec3(0, 1, 0);
        });
        const bool uv = read("TEXCOORD_0", 2, [](Vertex& v, const float* f) { v.uv = {f[0], f[1]}; });
        const bool tangents = normals && read("TANGENT", 4, [](Vertex& v, const float* f) {
                                  v.tangent = {f[0], f[1], f[2], f[3] < 0 ? -1.0f : 1.0f};
                              });
        if (attributes.has("COLOR_0")) {
            const int components = file_.components(attributes["COLOR_0"]);
            if (components != 3 && components != 4) attributes["COLOR_0"].complain("must have 3 or 4 components");
            read("COLOR_0", components, [components](Vertex& v, const float* f) {
                v.color = 0;
                for (int c = 0; c < 4; ++c) {
                    const float x = c < components ? std::clamp(f[c], 0.0f, 1.0f) : 1.0f;
                    v.color |= static_cast<std::uint32_t>(x * 255.0f + 0.5f) << (8 * c);
                }
            });
        }
        std::vector<glm::vec2> second;
        if (attributes.has("TEXCOORD_1")) {
            file_.spend(count * sizeof(glm::vec2), p);
            second.reserve(count);
            (void)read("TEXCOORD_1", 2, [&](Vertex&, const float* f) { second.emplace_back(f[0], f[1]); });
            if (!std::all_of(second.begin(), second.end(),
                             [](const glm::vec2& v) { return std::isfinite(v.x + v.y); })) {
                file_.warn(attributes.pointer() + "/TEXCOORD_1", "has values that are no numbers: it is laid out anew");
                second.clear();
            }
        }
        std::vector<std::uint32_t> order;
        if (p.has("indices")) {
            order = file_.indices(p["indices"]);
            for (std::size_t i = 0; i < order.size(); ++i)
                if (order[i] >= count)
                    p["indices"].complain("index " + std::to_string(order[i]) + " at place " + std::to_string(i) +
                                          " is beyond the " + std::to_string(count) + " vertices");
        } else {
            order.resize(count);
            for (std::size_t i = 0; i < count; ++i)
                order[i] = static_cast<std::uint32_t>(i);
        }
        if (mode == 4) {
            if (order.size() % 3 != 0)
                p.complain("has " + std::to_string(order.size()) + " indices, not a multiple of three");
            primitive.indices = std::move(order);
        } else {
            for (std::size_t i = 2; i < order.size(); ++i) {
                const bool odd = mode == 5 && i % 2 == 1;
                const std::uint32_t a = mode == 6 ? order[0] : order[i - 2];
                primitive.indices.insert(primitive.indices.end(),
                                         {a, odd ? order[i] : order[i - 1], odd ? order[i - 1] : order[i]});
            }
        }
        primitive.material = material_of(p);
        bending_ = gltf::read_bending(file_, p, count);
        if (!normals) {
            file_.spend(primitive.indices.size() * sizeof(Vertex), p);
            if (bending_) {
                file_.spend(primitive.indices.size() / std::max<std::size_t>(count, 1) *
                                (bending_->changes.size() * sizeof(ShapeChange) + bending_->shares.size() * 24),
                            p);
                gltf::take_vertices(*bending_, primitive.indices);
            }
            if (!second.empty()) { // a vertex for each corner
                std::vector<glm::vec2> corners;
                for (const std::uint32_t i : primitive.indices)
                    corners.push_back(second[i]);
                second = std::move(corners);
            }
            make_flat_normals(primitive);
        }
        primitive.secondUv = SharedList<glm::vec2>(std::move(second));
        const auto material =
            static_cast<std::size_t>(primitive.material < 0 ? int(uvTransforms_.size()) - 1 : primitive.material);
        if (const glm::mat3& place = uvTransforms_[material]; uv && place != glm::mat3(1.0f))
            for (Vertex& v : primitive.vertices)
                v.uv = glm::vec2(place * glm::vec3(v.uv, 1));
        if (!tangents || !uv) make_tangents(primitive);
        for (const Vertex& v : primitive.vertices)
            primitive.bounds.add(v.position);
        return !primitive.indices.empty();
    }

    static glm::mat4 local_transform(const JsonCursor& node) {
        if (node.has("matrix")) {
            const JsonCursor list = node["matrix"];
            if (!list.json().is_array() || list.size() != 16) list.complain("must be an array of 16 numbers");
            glm::mat4 out;
            for (int i = 0; i < 16; ++i)
                out[i / 4][i % 4] = static_cast<float>(list.at(i).number());
            return out;
        }
        const glm::vec3 t = node.vector<3>("translation", glm::vec3(0.0f)),
                        s = node.vector<3>("scale", glm::vec3(1.0f));
        const glm::vec4 r = node.vector<4>("rotation", glm::vec4(0, 0, 0, 1));
        const float length = glm::length(r);
        if (!(length > 1e-6f)) node["rotation"].complain("is not a quaternion");
        glm::mat4 m = glm::mat4_cast(glm::quat(r.w / length, r.x / length, r.y / length, r.z / length));
        for (int k = 0; k < 3; ++k)
            m[k] *= s[k];
        m[3] = glm::vec4(t, 1.0f);
        return m;
    }

    void read_nodes() {
        const JsonCursor root = file_.root(), nodes = root.list("nodes"), scenes = root.list("scenes");
        const std::size_t count = nodes.size();
        std::vector<int> parent(count, -1);
        for (std::size_t i = 0; i < count; ++i) {
            const JsonCursor children = nodes.at(i).list("children");
            for (std::size_t k = 0; k < children.size(); ++k) {
                const auto c = children.at(k).whole(0x7FFFFFFF);
                if (c >= count) children.at(k).complain("node " + std::to_string(c) + " does not exist");
                if (parent[c] >= 0)
                    children.at(k).complain("node " + std::to_string(c) +
                                            " already has a parent: nodes must form trees");
                parent[c] = static_cast<int>(i);
            }
        }
        // Up from every node: whoever meets its own path again is on a cycle.
        std::vector<std::uint8_t> state(count, 0);
        for (std::size_t i = 0; i < count; ++i) {
            std::vector<std::size_t> path;
            std::size_t n = i;
            while (state[n] == 0) {
                state[n] = 1;
                path.push_back(n);
                if (parent[n] < 0) break;
                n = static_cast<std::size_t>(parent[n]);
                if (state[n] == 1) nodes.at(n).complain("is its own ancestor");
            }
            for (const std::size_t p : path)
                state[p] = 2;
        }
        rig_ = std::make_shared<Rig>();
        for (std::size_t i = 0; i < count; ++i) {
            rig_->nodes.push_back(gltf::read_node(nodes.at(i), i));
            rig_->nodes.back().parent = parent[i];
        }
        order_nodes();
        rig_->skins = gltf::read_skins(file_, count);
        rig_->lights = gltf::read_light_values(root);
        std::vector<std::uint32_t> roots;
        asset_.sceneNames = names_of(scenes, "scene");
        int shown = root.has("scene") ? root.index("scene", scenes.size()) : (scenes.size() > 0 ? 0 : -1);
        if (const int own = chosen(asset_.sceneNames, options_.choice.scene, "/scenes"); own >= 0) shown = own;
        asset_.sceneShown = shown;
        if (shown >= 0) {
            const JsonCursor list = scenes.at(static_cast<std::size_t>(shown)).list("nodes");
            std::set<std::uint64_t> seen;
            for (std::size_t k = 0; k < list.size(); ++k) {
                const auto n = list.at(k).whole(0x7FFFFFFF);
                if (n >= count) list.at(k).complain("node " + std::to_string(n) + " does not exist");
                if (parent[n] >= 0) list.at(k).complain("node " + std::to_string(n) + " is not a root");
                if (!seen.insert(n).second) list.at(k).complain("node " + std::to_string(n) + " is named twice");
                roots.push_back(static_cast<std::uint32_t>(n));
            }
        } else {
            for (std::size_t i = 0; i < count; ++i)
                if (parent[i] < 0) roots.push_back(static_cast<std::uint32_t>(i));
        }
        std::vector<std::pair<std::uint32_t, glm::mat4>> stack;
        for (auto it = roots.rbegin(); it != roots.rend(); ++it)
            stack.emplace_back(*it, glm::mat4(1.0f));
        while (!stack.empty()) {
            const auto [index, above] = stack.back();
            stack.pop_back();
            const JsonCursor node = nodes.at(index);
            const glm::mat4 world = above * local_transform(node);
            for (int k = 0; k < 16; ++k)
                if (!std::isfinite(world[k / 4][k % 4])) node.complain("has a transform that is not finite");
            place(node, static_cast<int>(index), world);
            for (const glm::mat4& more : instances_of(node))
                place_mesh(node, static_cast<int>(index), world, more);
            const JsonCursor children = node.list("children");
            for (std::size_t k = children.size(); k-- > 0;)
                stack.emplace_back(static_cast<std::uint32_t>(children.at(k).whole(count)), world);
        }
    }

    /// Parents before children.
    void order_nodes() {
        std::vector<std::vector<int>> children(rig_->nodes.size());
        std::vector<int>& order = rig_->order;
        for (std::size_t i = 0; i < rig_->nodes.size(); ++i)
            if (const int p = rig_->nodes[i].parent; p >= 0)
                children[static_cast<std::size_t>(p)].push_back(static_cast<int>(i));
            else
                order.push_back(static_cast<int>(i));
        for (std::size_t at = 0; at < order.size(); ++at) {
            const auto& next = children[static_cast<std::size_t>(order[at])];
            order.insert(order.end(), next.begin(), next.end());
        }
    }

    /// Clips, and where everything stands while none plays.
    void finish_rig() {
        Rig& rig = *rig_;
        const JsonCursor nodes = file_.root().list("nodes"), meshes = file_.root().list("meshes");
        std::vector<int> shapes(rig.nodes.size(), 0);
        for (std::size_t n = 0; n < rig.nodes.size(); ++n) {
            const int mesh = nodes.at(n).index("mesh", meshes.size());
            if (mesh < 0) continue;
            for (const int p : meshPrimitives_[static_cast<std::size_t>(mesh)])
                if (const auto b = bendings_.find(p); b != bendings_.end())
                    shapes[n] = std::max(shapes[n], b->second->shapes);
            const JsonCursor usual = meshes.at(static_cast<std::size_t>(mesh)).list("weights");
            std::vector<float>& weights = rig.nodes[n].weights;
            if (weights.empty())
                for (std::size_t s = 0; s < usual.size() && s < 1024; ++s)
                    weights.push_back(static_cast<float>(usual.at(s).number()));
            weights.resize(static_cast<std::size_t>(shapes[n]), 0.0f);
        }
        rig.clips = gltf::read_clips(file_, rig, shapes);
        rig.rest = make_pose(rig, {}, 0);
        asset_.rig = rig_;
        for (std::size_t b = 0; b < rig.bodies.size(); ++b) {
            const Body& body = rig.bodies[b];
            Object& o = asset_.objects[static_cast<std::size_t>(body.object)];
            o.body = static_cast<int>(b);
            o.shape = rig.rest->states[b];
            o.bounds = bounds_in(asset_, o, rig.rest.get());
            const glm::vec3 s = o.bounds.size();
            if (!std::isfinite(s.x + s.y + s.z))
                nodes.at(static_cast<std::size_t>(body.node)).complain("bends its mesh outside the range of numbers");
        }
    }

    /// A primitive of its own for an object that is bent, and what bends it. True if bones place it in the world.
    bool take_body(const JsonCursor& node, int index, int& primitive, int skin) {
        const auto found = bendings_.find(primitive);
        if (found == bendings_.end()) return false;
        std::shared_ptr<const Bending> bending = found->second;
        if (bending->sets > 0 && skin < 0 && bending->shapes == 0) return false; // joints without bones
        if (bending->sets == 0) skin = -1;
        if (bending->sets == 0 && bending->shapes == 0) return false;
        const Primitive& whole = asset_.primitives[static_cast<std::size_t>(primitive)];
        if (skin >= 0) {
            std::size_t lost = 0;
            bending =
                gltf::fit_to_skin(bending, whole, rig_->skins[static_cast<std::size_t>(skin)].joints.size(), lost);
            if (lost > 0)
                file_.warn(node.pointer() + "/skin", std::to_string(lost) +
                                                         " vertices follow joints that the skin does "
                                                         "not have: the others hold them");
        } else if (bending->sets > 0) { // shapes alone
            auto plain = std::make_shared<Bending>(*bending);
            plain->sets = 0;
            plain->joints.clear();
            plain->shares.clear();
            bending = std::move(plain);
        }
        if (!taken_.insert(primitive).second) {
            file_.spend(2 * whole.vertices.size() * sizeof(Vertex), node);
            Primitive copy = whole;
            primitive = static_cast<int>(asset_.primitives.size());
            asset_.primitives.push_back(std::move(copy));
        }
        rig_->bodies.push_back({static_cast<int>(asset_.objects.size()), primitive, index, skin, std::move(bending)});
        return skin >= 0;
    }

    /// The wanted id, or with `mark` and the first free number behind it.
    std::string unused_id(const std::string& wanted, const char* mark, int first) {
        if (ids_.insert(wanted).second) return wanted;
        int& next = nextId_.try_emplace(wanted, first).first->second;
        for (;; ++next) {
            std::string id = wanted + mark + std::to_string(next);
            if (ids_.insert(id).second) return id;
        }
    }

    static bool is_instanced(const JsonCursor& node) {
        return node.has("extensions") && node["extensions"].has("EXT_mesh_gpu_instancing");
    }

    /// Places of a node's mesh in its own space (EXT_mesh_gpu_instancing).
    std::vector<glm::mat4> instances_of(const JsonCursor& node) {
        std::vector<glm::mat4> out;
        if (!is_instanced(node)) return out;
        const JsonCursor attributes = node["extensions"]["EXT_mesh_gpu_instancing"]["attributes"];
        std::vector<float> t, r, s;
        std::size_t count = 0;
        for (const auto& [key, components, values] :
             {std::tuple("TRANSLATION", 3, &t), {"ROTATION", 4, &r}, {"SCALE", 3, &s}}) {
            if (!attributes.has(key)) continue;
            std::size_t n = 0;
            *values = file_.floats(attributes[key], components, n);
            if (count != 0 && n != count)
                attributes[key].complain("has " + std::to_string(n) + " places where another has " +
                                         std::to_string(count));
            count = n;
        }
        for (std::size_t i = 0; i < count; ++i) {
            glm::mat4 m(1.0f);
            if (!r.empty()) {
                const glm::quat q(r[4 * i + 3], r[4 * i], r[4 * i + 1], r[4 * i + 2]);
                if (glm::dot(q, q) > 1e-12f) m = glm::mat4_cast(glm::normalize(q));
            }
            for (int k = 0; k < 3 && !s.empty(); ++k)
                m[k] *= s[3 * i + static_cast<std::size_t>(k)];
            if (!t.empty()) m[3] = glm::vec4(t[3 * i], t[3 * i + 1], t[3 * i + 2], 1);
            out.push_back(m);
        }
        return out;
    }

    /// The objects of a node's mesh; instance: in this place of the node's space.
    void place_mesh(const JsonCursor& node, int index, const glm::mat4& world,
                    const std::optional<glm::mat4>& instance) {
        const std::string name = node.text("name", "node " + std::to_string(index));
        const int skin = node.index("skin", rig_->skins.size());
        const int mesh = node.index("mesh", meshPrimitives_.size());
        if (mesh >= 0) {
            if (asset_.objects.size() > 2000000) node.complain("brings the scene over two million objects");
            int part = 0;
            const std::string id = unused_id(name, "~", 2);
            for (int p : meshPrimitives_[mesh]) {
                const bool inWorld = take_body(node, index, p, skin);
                const glm::mat4 place = inWorld ? glm::mat4(1.0f) : instance ? world * *instance : world;
                Object object{p, place, transformed(asset_.primitives[p].bounds, place),
                              glm::determinant(glm::mat3(place)) < 0.0f};
                const glm::vec3 s = object.bounds.size();
                if (!std::isfinite(s.x + s.y + s.z)) node.complain("places its mesh outside the range of numbers");
                if (instance) rig_->instances[static_cast<int>(asset_.objects.size())] = glm::dmat4(*instance);
                asset_.objects.push_back(std::move(object));
                asset_.objectNames.push_back(
                    {part == 0 ? id : unused_id(id + "#" + std::to_string(part), "~", 2), name, index});
                ++part;
            }
        }
    }

    void place(const JsonCursor& node, int index, const glm::mat4& world) {
        const std::string name = node.text("name", "node " + std::to_string(index));
        rig_->nodes[static_cast<std::size_t>(index)].placed = true;
        if (!is_instanced(node)) place_mesh(node, index, world, std::nullopt);
        const glm::vec3 at(world[3]), backward(world[2]);
        const float length = glm::length(backward);
        const glm::vec3 forward = length > 1e-12f ? -backward / length : glm::vec3(0, 0, -1);
        const JsonCursor cameras = file_.root().list("cameras");
        const int camera = node.index("camera", cameras.size());
        if (camera >= 0) {
            const JsonCursor c = cameras.at(camera);
            if (c["type"].text() == "perspective") {
                const JsonCursor p = c["perspective"];
                Camera made;
                made.name = c.text("name", name);
                made.eye = at;
                made.aim = at + forward * 5.0f;
                made.fovY = static_cast<float>(p["yfov"].number());
                if (made.fovY <= 0.0f || made.fovY >= 3.1f) p["yfov"].complain("must lie between 0 and 3.1 radians");
                made.near = static_cast<float>(p["znear"].number());
                if (made.near <= 0.0f) p["znear"].complain("must be over 0");
                rig_->nodes[static_cast<std::size_t>(index)].camera = static_cast<int>(asset_.cameras.size());
                asset_.cameras.push_back(made);
            } else
                file_.warn(c.pointer(), "only perspective cameras are used");
        }
        if (node.has("extensions") && node["extensions"].has("KHR_lights_punctual"))
            place_light(node["extensions"]["KHR_lights_punctual"], name, index, at, forward);
    }

    void place_light(const JsonCursor& reference, const std::string& name, int index, const glm::vec3& at,
                     const glm::vec3& forward) {
        const JsonCursor root = file_.root();
        if (!root.has("extensions") || !root["extensions"].has("KHR_lights_punctual"))
            reference.complain("names a light but the file lists none");
        const JsonCursor lights = root["extensions"]["KHR_lights_punctual"].list("lights");
        const int which = reference.index("light", lights.size());
        if (which < 0) reference.complain("lacks \"light\"");
        const JsonCursor l = lights.at(which);
        Light light;
        light.id = index;
        light.name = name;
        light.position = at;
        light.direction = forward;
        light.color = l.vector<3>("color", glm::vec3(1.0f));
        light.intensity = static_cast<float>(l.number("intensity", 1.0, 0.0));
        const std::string type = l["type"].text();
        if (type == "directional") {
            light.type = LightType::directional;
            light.unit = IntensityUnit::lux;
        } else if (type == "point" || type == "spot") {
            light.type = type == "spot" ? LightType::spot : LightType::point;
            light.range = static_cast<float>(l.number("range", 0.0, 0.0));
            if (l.has("range") && light.range == 0.0f)
                l["range"].complain("must be over 0", "Leave it out for an unbounded light.");
        } else
            l["type"].complain("is \"" + type + "\", not directional, point or spot");
        if (light.type == LightType::spot && l.has("spot")) {
            const JsonCursor s = l["spot"];
            light.innerConeAngle = static_cast<float>(s.number("innerConeAngle", 0.0, 0.0, 1.5708));
            light.outerConeAngle = static_cast<float>(s.number("outerConeAngle", 0.7853982, 0.0, 1.5708));
            if (light.innerConeAngle > light.outerConeAngle) s.complain("innerConeAngle is larger than outerConeAngle");
        }
        // Authoring tools write a colour temperature into extras; it is ours to keep for display, the colour is the
        // file's.
        if (l.has("extras") && l["extras"].has("kelvin"))
            light.kelvin = static_cast<float>(l["extras"].number("kelvin", 0.0, 0.0, 40000.0));
        if (l.has("extras"))
            light.sourceSize =
                static_cast<float>(l["extras"].number("sourceSize", 0.0, 0.0, most_source_size(light.type)));
        if (l.has("extras") && l["extras"].has("unit") && l["extras"]["unit"].text() == "lm")
            light.unit = IntensityUnit::lumen;
        rig_->nodes[static_cast<std::size_t>(index)].light = which;
        asset_.lights.push_back(light);
    }

    File file_;
    ImportOptions options_;
    SceneAsset asset_;
    std::vector<std::vector<int>> meshPrimitives_;
    std::vector<glm::mat3> uvTransforms_; // by material
    int variant_ = -1;                    // into SceneAsset::variantNames
    std::shared_ptr<Rig> rig_;
    std::shared_ptr<Bending> bending_;                       // of the primitive that was read last
    std::map<int, std::shared_ptr<const Bending>> bendings_; // by primitive
    std::set<int> taken_;                                    // primitives that one object bends
    std::unordered_set<std::string> ids_;                    // of objects
    std::unordered_map<std::string, int> nextId_;
};

} // namespace

Result<std::shared_ptr<const SceneAsset>> import_gltf(const std::filesystem::path& path, const ImportOptions& options) {
    try {
        SceneAsset asset = Importer(path, options).run();
        add_proxy_box(asset);
        return std::make_shared<const SceneAsset>(std::move(asset));
    } catch (const ReadFailure& f) {
        return fail(f.what, f.pointer.empty() ? path.string() : path.string() + "#" + f.pointer, f.remedy);
    } catch (const std::bad_alloc&) {
        return fail("needs more memory than there is", path.string(), "Close other programs or open a smaller scene.");
    }
}

} // namespace mirolux
