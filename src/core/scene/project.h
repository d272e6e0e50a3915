#pragma once
#include "core/base/error.h"
#include "core/cost/target.h"
#include "core/plan/settings.h"
#include "core/plan/view.h"
#include "core/scene/built.h"
#include "core/scene/gltf_import.h"

namespace mirolux {

struct WalkKey {
    double seconds = 0.0;
    glm::vec3 eye{0.0f}, aim{0.0f};

    bool operator==(const WalkKey&) const = default;
};

/// A recorded camera path; keys ascend in time. Between keys: centripetal Catmull-Rom of eye and aim.
struct Walk {
    std::string name;
    float fovY = 0.9f; // radians
    float span = 0.0f; // Camera::span
    std::vector<WalkKey> keys;

    bool operator==(const Walk&) const = default;
};
Camera camera_on(const Walk& walk, double seconds);

/// Lights and objects that are chosen together, under a name.
struct Group {
    std::string name;
    std::vector<int> lights;          // Light::id
    std::vector<std::string> objects; // ObjectName::id

    bool operator==(const Group&) const = default;
};

struct Project;
/// Where what is computed beforehand for a project (or a scene file that was never saved as one) lies: a folder beside
/// it.
std::filesystem::path bakes_beside(const Project& project);

/// All that a user edits; a value: copied for undo, compared for the dirty mark.
struct Project {
    std::string path; // of the .mirolux file; empty for one that was never saved
    std::string name;
    std::string scenePath; // absolute
    SceneChoice choice;    // of what the scene file offers
    std::vector<Light> lights;
    std::vector<Motion> motions;
    std::vector<ClipPlay> clips;    // how the file's clips play; empty: usual_clips
    std::vector<AirVolume> volumes; // clouds of air
    std::vector<CheapLight> cheapLights;
    std::vector<Probe> probes; // their captures: beside the project (probe_file)
    flat::WorldPtr flat;       // of a Flat stage; an edit puts another in its place
    blocks::WorldPtr blocks;   // of a Blocks stage; the same
    std::vector<Door> doors;   // between rooms
    std::vector<DrawnRoom> drawnRooms;
    BuiltPtr built;   // what is built in the scene; an edit puts another in its place
    EditList objects; // in the order of ids; those whose object the file has lost are kept
    std::vector<Group> groups;
    Sky sky;
    std::vector<Camera> cameras; // the scene's and the project's own
    std::vector<Walk> walks;
    std::vector<Target> targets;
    int target = 0;
    bool targetByDevice = false; // none was chosen yet: the window takes the one that suits the device
    Setup setup;                 // of the chosen target: its own, or the shared one
    std::optional<Setup> shared; // what the other targets share, while the chosen one has its own
    std::optional<Setup> b;      // the second setup, to be held against `setup`
    std::vector<std::pair<std::string, Setup>> setups; // kept under a name
    View view;

    bool operator==(const Project&) const = default;
};

/// Chooses a target with its size and its setup; what was edited on the one before stays with it.
void choose_target(Project& project, int target);
/// Gives the chosen target a setup of its own (as it is now), or lets it share the others' again.
void own_setup(Project& project, bool own);
/// Another target in its place, or none: a copy of the chosen one behind the last; the chosen one gone.
void add_target(Project& project);
void erase_target(Project& project);
/// The setup that holds on a target.
const Setup& setup_on(const Project& project, int target);
/// The chosen target takes the setup of another, as its own if that is one.
void take_setup_of(Project& project, int target);
/// Keeps the chosen target's own setup equal to the one that is edited; to be called after an edit.
void settle_targets(Project& project);
/// What holds on a target and not on those that share, in words: settings, and what is off.
std::vector<std::string> target_differences(const Project& project, const SceneAsset& asset, int target);

/// A project with its scene file's content, and what is built in it (built_on).
struct OpenProject {
    Project project;
    std::shared_ptr<const SceneAsset> asset;
    std::vector<std::string> warnings;
};

/// The scene as it is on a target: with what is off there, at the view's time. `placed`: of the project's objects on
/// that target, if it is known.
Scene scene_on(const Project& project, const std::shared_ptr<const SceneAsset>& asset, int target,
               std::shared_ptr<const PlacedObjects> placed = nullptr);
/// Takes things out of what is built, and out of all that names their objects: edits, groups, what is off on a target.
void remove_things(Project& project, const std::set<std::string>& ids);
/// Objects' edits on a target: the project's, and hidden what is off there.
EditList edits_on(const Project& project, const SceneAsset& asset, int target);
inline Scene scene_of(const OpenProject& open) {
    return scene_on(open.project, open.asset, open.project.target);
}

/// Opens a project (.mirolux) or a scene file (glTF, or a flat one in JSON) as a new project. Errors name the file and
/// the JSON pointer.
Result<OpenProject> open_project(const std::filesystem::path& path, const ImportOptions& options = {});

/// The project after its scene file has changed from `from` to `to` (both with what is built): lights that were edited
/// keep their edits where they still exist by id, the others follow the file; removed ones stay removed, added ones
/// stay; edits of objects stay, also of those that the file has lost. `lost`: names of edited lights and objects that
/// the file no longer has.
Project rebased(const Project& project, const SceneAsset& from, const SceneAsset& to, std::vector<std::string>& lost);

/// The project's JSON as docs/project-format.md describes it; lights are kept as differences from the scene file's.
std::string project_text(const Project& project, const SceneAsset& asset, const std::filesystem::path& beside);
Result<void> save_project(const Project& project, const SceneAsset& asset, const std::filesystem::path& path);

/// Unsaved work, written beside the project and removed on a clean end.
std::filesystem::path autosave_path(const std::filesystem::path& projectPath);
/// `path`: where; empty: autosave_path of the project.
Result<void> write_autosave(const Project& project, const SceneAsset& asset, const std::filesystem::path& path = {});
/// The autosave's content if there is one, with `project.path` set to the project it belongs to.
Result<OpenProject> open_autosave(const std::filesystem::path& projectPath, const ImportOptions& options = {});

/// A camera that sees the whole of a box from a little above.
Camera framing(const Box& box, float fovY = 0.9f);

} // namespace mirolux
