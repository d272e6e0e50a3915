#pragma once
#include "core/scene/scene.h"
#include <glm/gtc/quaternion.hpp>

namespace mirolux {

struct Pose; // core/motion/rig.h

/// Whether an object is taken to stand still, by what is made for what stands still (visibility, say). What a clip
/// moves moves, whatever it is marked as.
enum class Standing {
    found, // still unless an edit has placed it
    still, // where it stands now
    moving
};
inline constexpr Standing all_standings[] = {Standing::found, Standing::still, Standing::moving};
const char* word(Standing standing);

inline constexpr float least_map_detail = 1.0f / 16, most_map_detail = 16;

/// What a project changes of one object: a placement on top of the file's own, in world space: first sized, then
/// turned, then moved. Or a proxy of the project's own: a box of one metre, placed in the same way.
struct ObjectEdit {
    std::string id, name; // ObjectName; the name tells what is meant where the file has lost it
    glm::vec3 translation{0.0f};
    glm::quat rotation{1.0f, 0.0f, 0.0f, 0.0f}; // unit
    glm::vec3 scale{1.0f};                      // over 0
    bool hidden = false;
    Casting casts = Casting::yes;
    bool receives = true; // shadows
    bool proxy = false;
    Standing standing = Standing::found;
    float mapDetail = 1; // Object::mapDetail: 0, or from least_map_detail to most_map_detail

    bool operator==(const ObjectEdit&) const = default;
    /// True if it leaves its object as the file has it; never of a proxy.
    bool idle() const;
};
glm::mat4 matrix_of(const ObjectEdit& edit);

/// Edits that copies share until one of them is changed: a project, its placed objects and the steps of a history hold
/// the same ten thousand.
class EditList {
public:
    EditList() = default;
    EditList(std::vector<ObjectEdit> edits)
        : edits_(std::make_shared<const std::vector<ObjectEdit>>(std::move(edits))) {}
    EditList(std::initializer_list<ObjectEdit> edits) : EditList(std::vector<ObjectEdit>(edits)) {}

    const std::vector<ObjectEdit>& list() const {
        static const std::vector<ObjectEdit> none;
        return edits_ ? *edits_ : none;
    }
    operator const std::vector<ObjectEdit>&() const { return list(); }
    std::vector<ObjectEdit>::const_iterator begin() const { return list().begin(); }
    std::vector<ObjectEdit>::const_iterator end() const { return list().end(); }
    std::size_t size() const { return list().size(); }
    bool empty() const { return list().empty(); }
    const ObjectEdit& operator[](std::size_t i) const { return list()[i]; }
    const ObjectEdit& front() const { return list().front(); }
    const ObjectEdit& back() const { return list().back(); }
    bool operator==(const EditList& other) const { return edits_ == other.edits_ || list() == other.list(); }
    /// What `make` makes of a copy, which other lists do not share.
    template <class Make>
    void change(const Make& make) {
        std::vector<ObjectEdit> next = list();
        make(next);
        *this = EditList(std::move(next));
    }

private:
    std::shared_ptr<const std::vector<ObjectEdit>> edits_;
};

/// A change of placement that several objects take together.
struct Placement {
    glm::vec3 move{0.0f};                   // metres
    glm::quat turn{1.0f, 0.0f, 0.0f, 0.0f}; // about the pivot
    float size = 1.0f;                      // about the pivot
    glm::vec3 pivot{0.0f};                  // world, metres
};
ObjectEdit placed_by(const ObjectEdit& edit, const Placement& placement);
/// Sized along the axes that the object's box has in the file, about a point of it (world, as it stands now).
ObjectEdit sized_by(const ObjectEdit& edit, const glm::vec3& factors, const glm::vec3& pivot);

/// Objects of an asset with edits applied; immutable, shared between values.
struct PlacedObjects {
    EditList edits;
    std::vector<Object> objects;        // parallel to SceneAsset::objects, then the proxies in the order of edits
    Box bounds;                         // world, of what is drawn and not hidden
    std::shared_ptr<const Pose> pose{}; // that they stand in (scene_at); null: as the file places them
    std::shared_ptr<const PlacedObjects> base{};     // with a pose: the same without it; null: nothing is edited
    std::shared_ptr<const PlacedObjects> unmapped{}; // of a scene with a light map: the same without it
};

/// Gives an asset the box that proxies are made of.
void add_proxy_box(SceneAsset& asset);

/// Null if nothing is edited. Costs a copy of the objects. before: what it gave for other edits of the same asset;
/// where few of them differ, only those are placed anew.
std::shared_ptr<const PlacedObjects> place_objects(const SceneAsset& asset, EditList edits,
                                                   const PlacedObjects* before = nullptr);

/// How two lists differ that are in the order of ids.
struct EditChanges {
    std::vector<const ObjectEdit*> set;  // new or changed, of the later list
    std::vector<const ObjectEdit*> gone; // of the earlier one
};
EditChanges changes_between(const std::vector<ObjectEdit>& from, const std::vector<ObjectEdit>& to);

/// How an object of the scene is called, a proxy too.
ObjectName object_name(const SceneAsset& asset, const std::vector<ObjectEdit>& edits, int object);
inline ObjectName object_name(const Scene& scene, int object) {
    static const EditList none;
    return object_name(*scene.asset, scene.placed ? scene.placed->edits : none, object);
}
/// Objects whose name or id stands in a list ("crane, crane~2, gull *": with patterns of names), ascending; hidden ones
/// too.
std::vector<int> objects_named(const Scene& scene, const std::string& list);
/// The box of an object as it stands before its edit: in the file, or a proxy's metre.
Box box_before_edit(const SceneAsset& asset, int object);

/// The edit of an object, or one that changes nothing.
ObjectEdit edit_of(const std::vector<ObjectEdit>& edits, const SceneAsset& asset, int object);
/// Names of edits whose object the asset does not have.
std::vector<std::string> lost_objects(const std::vector<ObjectEdit>& edits, const SceneAsset& asset);
/// Takes edits into a list that is kept in the order of ids: an idle one is taken out.
void take_edits(std::vector<ObjectEdit>& list, const std::vector<ObjectEdit>& changed);
void take_edits(EditList& list, const std::vector<ObjectEdit>& changed);

/// Objects whose name or id matches: * any run, ? one character, no matter the case; a pattern without either matches
/// a part.
std::vector<int> objects_like(const SceneAsset& asset, const std::string& pattern);
bool name_matches(const std::string& name, const std::string& pattern);

} // namespace mirolux
