#pragma once
#include "core/scene/object_edit.h"
#include "core/scene/shapes.h"
#include <set>

// What a project builds in its scene: shapes, copies of the scene's objects, and further glTF files as models. Each
// thing is placed as objects of the file are, by an ObjectEdit.
namespace mirolux {

/// A plain material of a shape's own.
struct OwnMaterial {
    glm::vec3 color{0.5f}; // linear
    float metallic = 0.0f;
    float roughness = 0.6f;
    glm::vec3 emission{0.0f}; // cd/m2

    bool operator==(const OwnMaterial&) const = default;
};

/// How a thing is made. Of one kind: a shape, a model or a copy.
struct Make {
    std::optional<Shape> shape;
    std::string material; // of a shape: one of the scene file's by name; empty: its own
    OwnMaterial own;
    std::string model; // of a model: its glTF file, absolute
    std::string copy;  // of a copy: ObjectName::id in the scene file

    bool operator==(const Make&) const = default;
};

/// Things that are copies of each other share how they are made.
struct BuiltThing {
    std::string id;   // ObjectName::id of its object; "id#2" of a model's second one
    std::string name; // the user's
    std::shared_ptr<const Make> make;

    bool operator==(const BuiltThing& other) const {
        return id == other.id && name == other.name &&
               (make == other.make || (make && other.make && *make == *other.make));
    }
};

struct Built {
    std::vector<BuiltThing> things;

    bool operator==(const Built&) const = default;
};
using BuiltPtr = std::shared_ptr<const Built>;

/// The scene file's asset with what is built in it: behind the file's own primitives, materials and objects. Costs a
/// copy of its lists; vertices and pictures are shared with the file's asset. Models are read once while they stay as
/// they are; one that cannot be read, or a copy whose object is gone, is left out with a warning. Null or nothing
/// built: the file's asset itself.
std::shared_ptr<const SceneAsset> built_on(const std::shared_ptr<const SceneAsset>& asset, const BuiltPtr& built);

/// The thing that an object belongs to; null: it is of the scene file.
const BuiltThing* thing_of(const SceneAsset& asset, int object);
/// Objects that belong to a thing.
std::vector<int> objects_of(const SceneAsset& asset, const std::string& thing);

/// Names for things that are to be added: the id is free in the scene and in `built`; the name counts on.
std::vector<BuiltThing> named_things(const SceneAsset& asset, const Built& built, const std::string& name,
                                     const std::shared_ptr<const Make>& make, std::size_t count);

/// Changes of what is built. Edits of the things that go are taken out too.
void add_things(BuiltPtr& built, std::vector<BuiltThing> things);
void remove_things(BuiltPtr& built, EditList& edits, const std::set<std::string>& ids);
void change_things(BuiltPtr& built, const std::set<std::string>& ids, const std::function<void(BuiltThing&)>& change);

/// How often along each world axis, and how far apart, metres. 1, 1, 1: the thing alone.
struct ArrayStep {
    glm::ivec3 count{1};
    glm::vec3 step{1.0f};
    std::size_t copies() const { return std::size_t(count.x) * std::size_t(count.y) * std::size_t(count.z) - 1; }
};
inline constexpr std::size_t most_things = 20000;

struct Copies {
    std::vector<BuiltThing> things;
    std::vector<ObjectEdit> edits; // that place them
};
/// Copies of objects as they stand, at the other places of an array. Parts of one thing stay together; an object of the
/// file becomes a copy; proxies are left out.
Copies arrayed(const SceneAsset& asset, const std::vector<ObjectEdit>& edits, const std::vector<int>& objects,
               const ArrayStep& array);

/// Turned so that its y axis goes along a unit normal, by the shortest way.
glm::quat upright(const glm::vec3& normal);
/// The edit that stands a thing (its box before the edit) on a point of a surface: the middle of its underside there,
/// its up along the normal; it keeps its turn about that.
ObjectEdit standing_on(ObjectEdit edit, const Box& before, const glm::vec3& point, const glm::vec3& normal);
/// The point of a surface whose other two coordinates are whole multiples of `grid` (metres; 0: as it is), the third
/// being that along which the normal is longest.
glm::vec3 on_grid(const glm::vec3& point, const glm::vec3& normal, float grid);

} // namespace mirolux
