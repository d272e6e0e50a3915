#pragma once
#include "core/io/file_lock.h"
#include "core/rays/ray_scene.h"
#include "core/scene/history.h"
#include <QObject>
#include <QTimer>
#include <functional>
#include <future>
#include <optional>
#include <vector>

namespace mirolux::app {

/// What the pointer rests on: a choice that is not taken.
struct Consideration {
    QString words; // "Tile size 32"
    Setup setup;
    View view; // of the target's size
};

/// The open project as a value with its history. Every edit goes through edit(); undo and redo swap whole values. The
/// camera is not an edit: moving it neither dirties nor enters the history.
class Document : public QObject {
    Q_OBJECT
public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    /// Replaces everything. Keeps nothing of what was open before.
    void adopt(OpenProject open);
    bool is_open() const { return asset_ != nullptr; }
    const Project& project() const { return project_; }
    const std::shared_ptr<const SceneAsset>& asset() const { return asset_; }
    const std::vector<std::string>& warnings() const { return warnings_; }
    /// As it is shown: while lights are isolated the others are off in it; with the head lamp, if that is on.
    Scene scene() const;
    /// Objects as the project places them; null: as the file does.
    const std::shared_ptr<const PlacedObjects>& placed() const;
    /// The project's lights as they stand at the view's time.
    std::vector<Light> lights_now() const;
    /// The scene as rays meet it, at its present state; waits for its trees if they are not made yet.
    const RayScene& rays() const;
    const Target& target() const { return project_.targets[static_cast<std::size_t>(project_.target)]; }
    const Light* light(int id) const;
    const CheapLight* cheap_light(int id) const;
    const AirVolume* cloud(int id) const;
    const Probe* probe(int id) const;
    std::string scene_digest() const;

    /// Changes the project. Edits of one `merge` key in a row become one step of the history (a drag, a scrub) until
    /// settle().
    void edit(const QString& label, const std::function<void(Project&)>& change, const QString& merge = {});
    /// While something is dragged or scrubbed: pictures may be quick ones. Ending it closes the history's step.
    void set_interactive(bool on);
    bool interactive() const { return interactive_; }
    void edit_light(const QString& label, int id, const std::function<void(Light&)>& change, const QString& merge = {});
    /// One change of several lights, of each as it is now.
    void edit_lights(const QString& label, const std::vector<int>& ids, const std::function<void(Light&)>& change,
                     const QString& merge = {});
    void edit_cheap_light(const QString& label, int id, const std::function<void(CheapLight&)>& change,
                          const QString& merge = {});
    void edit_cloud(const QString& label, int id, const std::function<void(AirVolume&)>& change,
                    const QString& merge = {});
    void edit_probe(const QString& label, int id, const std::function<void(Probe&)>& change, const QString& merge = {});
    /// Captures that were made. No edit: what they show follows from all else, so that undo has no step for them.
    struct TakenCapture {
        int probe = -1; // Probe::id
        std::string file, captured;
    };
    void take_captures(const std::vector<TakenCapture>& captures);
    /// Another stage in its place, made from the present one.
    void edit_stage(const QString& label, const std::function<void(flat::World&)>& change, const QString& merge = {});
    /// Other cells in their place, made from the present ones.
    void edit_blocks(const QString& label, const std::function<void(blocks::World&)>& change,
                     const QString& merge = {});
    bool is_flat() const { return project_.flat != nullptr; }
    bool is_blocks() const { return project_.blocks != nullptr; }
    bool is_solid() const { return !is_flat() && !is_blocks(); }
    /// Things more, placed; returns the places of their objects.
    std::vector<int> add_things(const QString& label, std::vector<BuiltThing> things,
                                const std::vector<ObjectEdit>& edits);
    /// How things are made or called, each as it is now.
    void change_things(const QString& label, const std::set<std::string>& ids,
                       const std::function<void(BuiltThing&)>& change, const QString& merge = {});
    void remove_things(const QString& label, const std::set<std::string>& ids);
    /// Edits of several objects, given anew.
    void edit_objects(const QString& label, const std::vector<ObjectEdit>& edits, const QString& merge = {});
    /// The edit of an object, or one that changes nothing yet.
    ObjectEdit object_edit(int object) const { return edit_of(project_.objects, *asset_, object); }
    /// Objects of the file, then proxies.
    int object_count() const;
    ObjectName object_name(int object) const { return mirolux::object_name(*asset_, project_.objects, object); }
    bool is_proxy(int object) const { return object >= static_cast<int>(asset_->objects.size()); }

    /// Only these lights shine, until it is ended: their switches in the project stay as they are. No edit.
    void isolate(std::vector<int> lights);
    const std::vector<int>& isolated() const { return isolated_; }
    /// A lamp at the camera, until it is ended: it is none of the project's. No edit.
    void wear_head_lamp(bool on);
    bool head_lamp() const { return headLamp_; }
    /// Errors are the setting's own.
    Result<void> set(const std::string& key, const Value& value, const QString& merge = {});
    int add_light(Light light); // returns its id

    /// The pointer rests on a choice of a setting, of a target, or leaves it: nothing is changed.
    void consider(const std::string& key, const Value& value);
    void consider_target(int target);
    void consider_setup(const QString& words, const Setup& setup);
    void consider_nothing() { emit considered(std::nullopt); }

    /// A project in which no target was chosen yet takes the one that is made for the device; no edit.
    void suit_device(bool software);
    void move_camera(const Camera& camera);
    void set_seconds(double seconds);

    bool can_undo() const { return history_.can_undo(); }
    bool can_redo() const { return history_.can_redo(); }
    QString undo_label() const { return QString::fromStdString(history_.undo_label()); }
    QString redo_label() const { return QString::fromStdString(history_.redo_label()); }
    const History& history() const { return history_; }
    void undo();
    /// The setup summed in linear values as A, and in gamma-coded ones as B.
    void compare_spaces();
    void redo();
    bool dirty() const;

    /// Takes another state of the scene file, with the user's edits kept; says in words what is no longer there.
    void reload(std::shared_ptr<const SceneAsset> asset, QString& said);
    /// The file read as project().choice asks for. The step that chose takes what follows from it (other lights, say);
    /// steps that were undone or done again have it already.
    void take_choice(std::shared_ptr<const SceneAsset> asset);
    /// True if another window has the project open: unsaved work is then kept aside under a name of this window's own.
    bool shared() const { return is_open() && !project_.path.empty() && !lock_.held(); }
    Result<void> save(const QString& path);
    /// Ends the session cleanly: the autosave is taken away.
    void forget_autosave();

signals:
    void opened();
    void changed(); // anything that the picture or the panels show
    void camera_moved();
    void settled(); // an interactive edit has ended
    void saved();
    void reloaded();                                                        // the scene file's other state was taken
    void rebuilt(const std::shared_ptr<const mirolux::SceneAsset>& before); // other things are built in the scene
    void considered(const std::optional<Consideration>& choice);
    void autosave_failed(const QString& text);

private:
    void restore(Project project);
    /// Builds the asset anew where the project has other things than it; true if it did.
    bool settle_built();
    void write_autosave_now();

    Project project_, savedProject_;
    std::shared_ptr<const SceneAsset> asset_;
    void make_rays();
    mutable std::shared_ptr<const PlacedObjects> placed_; // of placedEdits_
    mutable EditList placedEdits_;
    mutable std::vector<std::string> placedOff_;
    mutable std::shared_ptr<RayScene> rays_;
    mutable std::future<std::shared_ptr<RayScene>> makingRays_; // its trees, on a thread of their own
    std::vector<std::string> warnings_;
    History history_;
    /// Lights that are gone are not looked at alone; when none is left, all lights are back.
    void settle_isolation();
    std::vector<int> isolated_;
    bool headLamp_ = false;
    QString merge_;
    bool interactive_ = false;
    bool choosing_ = false; // the last edit chose another scene or variant of the file
    QTimer autosave_;
    FileLock lock_; // on the project's file
    std::filesystem::path own_autosave() const;
};

} // namespace mirolux::app
