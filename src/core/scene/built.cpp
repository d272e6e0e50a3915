#include "core/scene/built.h"
#include "core/base/recent.h"
#include "core/base/text.h"
#include "core/motion/rig.h"
#include "core/scene/geometry.h"
#include "core/scene/gltf_import.h"
#include "core/surface/optics.h"
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <unordered_map>
#include <unordered_set>

namespace mirolux {

namespace {

using ModelRead = Result<std::shared_ptr<const SceneAsset>>;

/// A model's file as it is now.
ModelRead model_in(const std::string& path, bool pictures) {
    struct Key {
        std::string path;
        bool pictures;
        std::filesystem::file_time_type written;
        std::uintmax_t bytes;
        bool operator==(const Key&) const = default;
    };
    static Recent<Key, ModelRead> read(16);
    std::error_code ec;
    Key key{path, pictures, std::filesystem::last_write_time(path, ec), 0};
    key.bytes = std::filesystem::file_size(path, ec);
    if (ec) return import_gltf(path); // it says what is wrong
    return *read.of(key, [](const Key& k) { return import_gltf(k.path, {.decodeImages = k.pictures}); });
}

/// The few shapes made last: what is built anew shares its vertices with what was built before.
const Primitive& shape_made(const Shape& shape) {
    static Recent<Shape, Primitive> made(256);
    thread_local std::shared_ptr<const Primitive> held;
    held = made.of(settled(shape), make_shape);
    return *held;
}

/// Puts things into a copy of the file's asset.
class Building {
public:
    explicit Building(SceneAsset& asset) : asset_(asset), plain_(asset.materials.back()) {
        asset_.materials.pop_back(); // the default one is the last again when all is done
        for (std::size_t i = 0; i < asset_.objectNames.size(); ++i)
            ofFile_[asset_.objectNames[i].id] = i;
        for (std::size_t i = 0; i < asset_.materials.size(); ++i)
            materials_.emplace(asset_.materials[i].name, static_cast<int>(i));
    }
    void add(const BuiltThing& thing, int number) {
        if (!thing.make) return;
        thing_ = &thing;
        number_ = number;
        if (thing.make->shape)
            add_shape();
        else if (!thing.make->model.empty())
            add_model();
        else
            add_copy();
    }
    void finish() {
        asset_.materials.push_back(plain_);
        number_optics(asset_);
        if (rig_) {
            rig_->rest = make_pose(*rig_, {}, 0);
            asset_.rig = rig_;
        }
    }

private:
    void add_object(Object o, std::string id, std::string name, int node = -1) {
        asset_.bounds.add(o.bounds);
        asset_.objects.push_back(o);
        asset_.objectNames.push_back({std::move(id), std::move(name), node, number_});
    }
    void complain(const std::string& what) {
        asset_.warnings.push_back(thing_->name + " (" + thing_->id + "): " + what);
    }

    int material_of(const Make& make) {
        if (!make.material.empty()) {
            const auto it = materials_.find(make.material);
            if (it != materials_.end()) return it->second;
            complain("the scene has no material \"" + make.material + "\"; it has its own instead");
        }
        for (const auto& [own, index] : own_)
            if (own == make.own) return index;
        Material m;
        m.name = "own";
        m.baseColor = glm::vec4(make.own.color, 1.0f);
        m.metallic = make.own.metallic;
        m.roughness = make.own.roughness;
        m.emissive = make.own.emission;
        own_.emplace_back(make.own, static_cast<int>(asset_.materials.size()));
        asset_.materials.push_back(std::move(m));
        return own_.back().second;
    }

    void add_shape() {
        const Make& make = *thing_->make;
        int& primitive = primitives_.try_emplace(&make, -1).first->second;
        if (primitive < 0) {
            const int material = material_of(make);
            for (const auto& [shape, of, index] : shapes_)
                if (of == material && shape == *make.shape) primitive = index;
            if (primitive < 0) {
                primitive = static_cast<int>(asset_.primitives.size());
                asset_.primitives.push_back(shape_made(*make.shape));
                asset_.primitives.back().material = material;
                shapes_.emplace_back(*make.shape, material, primitive);
            }
        }
        Object o;
        o.primitive = primitive;
        o.bounds = asset_.primitives[static_cast<std::size_t>(primitive)].bounds;
        add_object(o, thing_->id, thing_->name);
    }

    void add_copy() {
        const auto it = ofFile_.find(thing_->make->copy);
        if (it == ofFile_.end())
            return complain("what it is a copy of, " + thing_->make->copy + ", is not in the scene");
        Object o = asset_.objects[it->second];
        if (o.body >= 0) { // as it rests: what bends a primitive belongs to one object
            o.body = -1;
            o.shape = 0;
        }
        add_object(o, thing_->id, thing_->name);
    }

    struct Model {
        std::shared_ptr<const SceneAsset> read;
        int primitives = 0; // its first one's place here
    };
    const Model* model(const std::string& path) {
        const auto it = models_.find(path);
        if (it != models_.end()) return it->second.read ? &it->second : nullptr;
        Model& m = models_[path];
        auto read = model_in(path, asset_.picturesRead);
        if (!read) {
            complain(to_text(read.error()));
            return nullptr;
        }
        m.read = std::move(*read);
        const SceneAsset& from = *m.read;
        m.primitives = static_cast<int>(asset_.primitives.size());
        const auto materials = static_cast<int>(asset_.materials.size()),
                   textures = static_cast<int>(asset_.textures.size()), images = static_cast<int>(asset_.images.size());
        for (Primitive p : from.primitives) {
            const int last = static_cast<int>(from.materials.size()) - 1; // its default is one like others here
            p.material = materials + (p.material < 0 ? last : p.material);
            asset_.primitives.push_back(std::move(p));
        }
        for (Material mat : from.materials) {
            for (int& t : mat.textures)
                if (t >= 0) t += textures;
            asset_.materials.push_back(std::move(mat));
        }
        for (Texture t : from.textures) {
            if (t.image >= 0) t.image += images;
            asset_.textures.push_back(t);
        }
        asset_.images.insert(asset_.images.end(), from.images.begin(), from.images.end());
        if (!from.lights.empty())
            complain(std::to_string(from.lights.size()) + " lights of the model are left out: lights are the scene's");
        return &m;
    }

    void add_model() {
        const Model* m = model(thing_->make->model);
        if (!m) return;
        const SceneAsset& from = *m->read;
        const Rig* rig = from.rig.get();
        const bool moves = rig && (rig->moves() || !rig->bodies.empty());
        const auto firstObject = static_cast<int>(asset_.objects.size());
        int nodes = -1, bodies = 0;
        std::vector<int> primitives; // of its objects, where they are bent: each has a primitive of its own
        if (moves) std::tie(nodes, bodies) = take_rig(*rig, *m, firstObject);
        for (std::size_t i = 0; i < from.objects.size(); ++i) {
            Object o = from.objects[i];
            o.primitive += m->primitives;
            if (o.body >= 0) {
                o.body += bodies;
                o.primitive = rig_->bodies[static_cast<std::size_t>(o.body)].primitive;
            }
            const int node = from.objectNames[i].node;
            add_object(o, i == 0 ? thing_->id : thing_->id + "#" + std::to_string(i + 1),
                       from.objects.size() == 1 ? thing_->name : thing_->name + ", " + from.objectNames[i].name,
                       moves && node >= 0 ? nodes + node : -1);
        }
        if (from.objects.empty()) complain("the model shows nothing");
    }

    /// Appends what moves a model; returns its first node's and its first body's place.
    std::pair<int, int> take_rig(const Rig& from, const Model& m, int firstObject) {
        if (!rig_) {
            rig_ = std::make_shared<Rig>();
            if (asset_.rig) {
                const Rig& own = *asset_.rig;
                rig_->nodes = own.nodes;
                rig_->order = own.order;
                rig_->clips = own.clips;
                rig_->skins = own.skins;
                rig_->bodies = own.bodies;
                rig_->lights = own.lights;
                rig_->instances = own.instances;
            }
        }
        Rig& to = *rig_;
        const int nodes = static_cast<int>(to.nodes.size()), skins = static_cast<int>(to.skins.size()),
                  bodies = static_cast<int>(to.bodies.size()), lights = static_cast<int>(to.lights.size());
        for (Node n : from.nodes) {
            if (n.parent >= 0) n.parent += nodes;
            n.camera = -1; // its views are not the scene's
            if (n.light >= 0) n.light += lights;
            to.nodes.push_back(std::move(n));
        }
        for (const int n : from.order)
            to.order.push_back(n + nodes);
        for (Clip c : from.clips) {
            c.name += " of " + thing_->id;
            for (ClipChannel& channel : c.channels)
                channel.target += channel.what >= Animated::lightColor ? lights : nodes;
            to.clips.push_back(std::move(c));
        }
        for (Skin s : from.skins) {
            for (int& j : s.joints)
                j += nodes;
            to.skins.push_back(std::move(s));
        }
        to.lights.insert(to.lights.end(), from.lights.begin(), from.lights.end());
        for (Body b : from.bodies) {
            b.object += firstObject;
            b.node += nodes;
            if (b.skin >= 0) b.skin += skins;
            // A body's primitive belongs to it alone: of a second one of the model, to a copy.
            const int here = b.primitive + m.primitives;
            b.primitive = here;
            if (!bodied_.insert(here).second) {
                b.primitive = static_cast<int>(asset_.primitives.size());
                asset_.primitives.push_back(asset_.primitives[static_cast<std::size_t>(here)]);
                asset_.primitives.back().vertices.list(); // bent where it lies
            }
            to.bodies.push_back(std::move(b));
        }
        for (const auto& [object, place] : from.instances)
            to.instances[object + firstObject] = place;
        return {nodes, bodies};
    }

    SceneAsset& asset_;
    const Material plain_;
    std::unordered_map<std::string, std::size_t> ofFile_; // objects by id
    std::unordered_map<std::string, int> materials_;      // of the scene file, by name
    std::vector<std::pair<OwnMaterial, int>> own_;
    std::unordered_map<const Make*, int> primitives_;
    std::vector<std::tuple<Shape, int, int>> shapes_; // with a material: its primitive
    std::map<std::string, Model> models_;
    std::set<int> bodied_;
    std::shared_ptr<Rig> rig_;
    const BuiltThing* thing_ = nullptr;
    int number_ = -1;
};

void add_to(Digest& d, const BuiltThing& t) {
    const auto text = [&](const std::string& s) { d.add(s.c_str(), s.size() + 1); };
    text(t.id);
    if (!t.make) return;
    const Make& m = *t.make;
    text(m.material);
    text(m.model);
    text(m.copy);
    const auto value = [&](const auto& v) { d.add(&v, sizeof v); };
    if (m.shape) {
        value(m.shape->kind);
        value(m.shape->size);
        value(m.shape->tube);
        value(m.shape->segments);
        value(m.shape->rings);
    }
    value(m.own.color);
    value(m.own.metallic);
    value(m.own.roughness);
    value(m.own.emission);
}

} // namespace

std::shared_ptr<const SceneAsset> built_on(const std::shared_ptr<const SceneAsset>& asset, const BuiltPtr& built) {
    if (!asset) return asset;
    const std::shared_ptr<const SceneAsset>& file = asset->file ? asset->file : asset;
    if (!built || built->things.empty() || file->materials.empty()) return file;
    if (asset->built == built) return asset;
    auto out = std::make_shared<SceneAsset>(*file);
    out->file = file;
    out->built = built;
    Digest digest;
    digest.value = file->digest;
    Building building(*out);
    for (std::size_t i = 0; i < built->things.size(); ++i) {
        add_to(digest, built->things[i]);
        building.add(built->things[i], static_cast<int>(i));
    }
    building.finish();
    out->digest = digest.value;
    return out;
}

const BuiltThing* thing_of(const SceneAsset& asset, int object) {
    if (object < 0 || static_cast<std::size_t>(object) >= asset.objectNames.size() || !asset.built) return nullptr;
    const int thing = asset.objectNames[static_cast<std::size_t>(object)].thing;
    return thing < 0 ? nullptr : &asset.built->things[static_cast<std::size_t>(thing)];
}

std::vector<int> objects_of(const SceneAsset& asset, const std::string& id) {
    std::vector<int> out;
    for (std::size_t i = asset.file ? asset.file->objects.size() : asset.objects.size(); i < asset.objects.size(); ++i)
        if (const BuiltThing* t = thing_of(asset, static_cast<int>(i)); t && t->id == id)
            out.push_back(static_cast<int>(i));
    return out;
}

namespace {

/// Ids and names that count on from what there is.
class Names {
public:
    Names(const SceneAsset& asset, const Built* built) {
        for (const ObjectName& n : asset.objectNames)
            ids_.insert(n.id);
        if (!built) return;
        for (const BuiltThing& t : built->things) {
            ids_.insert(t.id);
            names_.insert(t.name);
        }
    }
    BuiltThing next(const std::string& name, std::shared_ptr<const Make> make) {
        BuiltThing t{{}, {}, std::move(make)};
        do
            t.id = "made " + std::to_string(++id_);
        while (!ids_.insert(t.id).second);
        const std::string stem = name.substr(0, name.find_last_not_of("0123456789 ") + 1);
        int& count = counts_[stem];
        do
            t.name = stem + " " + std::to_string(++count);
        while (!names_.insert(t.name).second);
        return t;
    }

private:
    std::unordered_set<std::string> ids_, names_;
    std::unordered_map<std::string, int> counts_;
    int id_ = 0;
};

} // namespace

std::vector<BuiltThing> named_things(const SceneAsset& asset, const Built& built, const std::string& name,
                                     const std::shared_ptr<const Make>& make, std::size_t count) {
    Names names(asset, &built);
    std::vector<BuiltThing> out;
    for (std::size_t i = 0; i < count; ++i)
        out.push_back(names.next(name, make));
    return out;
}

void add_things(BuiltPtr& built, std::vector<BuiltThing> things) {
    Built next = built ? *built : Built{};
    for (BuiltThing& t : things)
        next.things.push_back(std::move(t));
    built = std::make_shared<const Built>(std::move(next));
}

void remove_things(BuiltPtr& built, EditList& edits, const std::set<std::string>& ids) {
    if (!built) return;
    Built next = *built;
    std::erase_if(next.things, [&](const BuiltThing& t) { return ids.count(t.id) > 0; });
    built = next.things.empty() ? nullptr : std::make_shared<const Built>(std::move(next));
    edits.change([&](std::vector<ObjectEdit>& list) {
        std::erase_if(list, [&](const ObjectEdit& e) { return ids.count(e.id.substr(0, e.id.find('#'))) > 0; });
    });
}

void change_things(BuiltPtr& built, const std::set<std::string>& ids, const std::function<void(BuiltThing&)>& change) {
    if (!built) return;
    Built next = *built;
    for (BuiltThing& t : next.things)
        if (ids.count(t.id)) change(t);
    if (!(next == *built)) built = std::make_shared<const Built>(std::move(next));
}

Copies arrayed(const SceneAsset& asset, const std::vector<ObjectEdit>& edits, const std::vector<int>& objects,
               const ArrayStep& array) {
    struct Source {
        std::shared_ptr<const Make> make;
        std::string name;
        std::vector<ObjectEdit> edits; // of its objects, in their order
        std::vector<std::string> ends; // of their ids, behind the thing's
    };
    std::vector<Source> sources;
    std::set<std::string> seen;
    for (const int o : objects) {
        if (static_cast<std::size_t>(o) >= asset.objects.size()) continue; // a proxy
        const BuiltThing* thing = thing_of(asset, o);
        if (!thing) {
            const ObjectName& name = asset.objectNames[static_cast<std::size_t>(o)];
            Make make;
            make.copy = name.id;
            sources.push_back({std::make_shared<const Make>(make),
                               name.name.empty() ? name.id : name.name,
                               {edit_of(edits, asset, o)},
                               {""}});
            continue;
        }
        if (!seen.insert(thing->id).second) continue;
        Source s{thing->make, thing->name, {}, {}};
        for (const int part : objects_of(asset, thing->id)) {
            s.edits.push_back(edit_of(edits, asset, part));
            s.ends.push_back(asset.objectNames[static_cast<std::size_t>(part)].id.substr(thing->id.size()));
        }
        sources.push_back(std::move(s));
    }
    Copies out;
    Names names(asset, asset.built.get());
    for (int y = 0; y < array.count.y; ++y)
        for (int z = 0; z < array.count.z; ++z)
            for (int x = 0; x < array.count.x; ++x) {
                if (x == 0 && y == 0 && z == 0) continue;
                for (const Source& s : sources) {
                    out.things.push_back(names.next(s.name, s.make));
                    for (std::size_t i = 0; i < s.edits.size(); ++i) {
                        ObjectEdit e = s.edits[i];
                        e.id = out.things.back().id + s.ends[i];
                        e.name = out.things.back().name;
                        e.translation += array.step * glm::vec3(x, y, z);
                        out.edits.push_back(std::move(e));
                    }
                }
            }
    return out;
}

glm::quat upright(const glm::vec3& normal) {
    const float up = std::clamp(normal.y, -1.0f, 1.0f);
    if (up > 1 - 1e-6f) return {1, 0, 0, 0};
    if (up < -1 + 1e-6f) return glm::angleAxis(3.14159265f, glm::vec3(1, 0, 0));
    return glm::angleAxis(std::acos(up), glm::normalize(glm::cross(glm::vec3(0, 1, 0), normal)));
}

ObjectEdit standing_on(ObjectEdit edit, const Box& before, const glm::vec3& point, const glm::vec3& normal) {
    const glm::quat stood = upright(edit.rotation * glm::vec3(0, 1, 0));
    edit.rotation = glm::normalize(upright(normal) * glm::inverse(stood) * edit.rotation);
    const glm::vec3 foot(before.center().x, before.low.y, before.center().z);
    edit.translation = point - edit.rotation * (edit.scale * foot);
    return edit;
}

glm::vec3 on_grid(const glm::vec3& point, const glm::vec3& normal, float grid) {
    if (!(grid > 0)) return point;
    const glm::vec3 size = glm::abs(normal);
    const int along = size.y >= size.x && size.y >= size.z ? 1 : size.x >= size.z ? 0 : 2;
    glm::vec3 out = point;
    float rest = 0; // of the plane's equation
    for (int k = 0; k < 3; ++k)
        if (k != along) {
            out[k] = std::round(point[k] / grid) * grid;
            rest += normal[k] * (out[k] - point[k]);
        }
    out[along] = point[along] - rest / normal[along];
    return out;
}

} // namespace mirolux
