#include "app/document.h"
#include "core/base/text.h"
#include "core/blocks/volume.h"
#include "core/finish/exposure.h"
#include "core/flat/flat_import.h"
#include "core/light/head_lamp.h"
#include "core/motion/scene_at.h"
#include <filesystem>
#include <unistd.h>
#include <unordered_set>

namespace mirolux::app {

Document::Document(QObject* parent) : QObject(parent) {
    autosave_.setSingleShot(true);
    autosave_.setInterval(1500);
    connect(&autosave_, &QTimer::timeout, this, &Document::write_autosave_now);
}

Document::~Document() = default;

void Document::make_rays() {
    placed_.reset();
    placedEdits_ = {};
    placedOff_.clear();
    rays_.reset();
    makingRays_ = std::async(std::launch::async, [asset = asset_->file ? asset_->file : asset_] {
        // The window holds no pictures; where holes are cut by one, it is read for the rays alone.
        const bool holes = std::any_of(asset->materials.begin(), asset->materials.end(), [](const Material& m) {
            return m.alphaMode != AlphaMode::opaque && m.textures[static_cast<int>(TextureSlot::baseColor)] >= 0;
        });
        if (holes)
            if (std::shared_ptr<const SceneAsset> read; auto whole = with_pictures(asset, read))
                return std::make_shared<RayScene>(Scene{*whole, {}, {}, {}});
        return std::make_shared<RayScene>(Scene{asset, {}, {}, {}});
    });
}

const std::shared_ptr<const PlacedObjects>& Document::placed() const {
    if (placedEdits_ != project_.objects || placedOff_ != target().offObjects) {
        placedEdits_ = project_.objects;
        placedOff_ = target().offObjects;
        placed_ = place_objects(*asset_, edits_on(project_, *asset_, project_.target), placed_.get());
    }
    return placed_;
}

const RayScene& Document::rays() const {
    if (makingRays_.valid()) rays_ = makingRays_.get();
    Scene now = scene();
    // Where it was read for the rays alone, what is built is built in that one too.
    if (file_asset(*rays_->asset()) != file_asset(*asset_)) now.asset = built_on(rays_->asset(), project_.built);
    rays_->place(now);
    return *rays_;
}

void Document::adopt(OpenProject open) {
    autosave_.stop();
    project_ = std::move(open.project);
    savedProject_ = project_;
    asset_ = std::move(open.asset);
    warnings_ = std::move(open.warnings);
    isolated_.clear();
    headLamp_ = false;
    make_rays();
    history_.begin(project_, tr("open").toStdString());
    merge_.clear();
    lock_.release();
    if (!project_.path.empty()) lock_.take(project_.path);
    emit opened();
    emit changed();
}

void Document::set_interactive(bool on) {
    if (interactive_ == on) return;
    interactive_ = on;
    if (!on) {
        merge_.clear();
        emit settled();
    }
}

const Light* Document::light(int id) const {
    for (const Light& l : project_.lights)
        if (l.id == id) return &l;
    return nullptr;
}

const CheapLight* Document::cheap_light(int id) const {
    for (const CheapLight& l : project_.cheapLights)
        if (l.id == id) return &l;
    return nullptr;
}

const AirVolume* Document::cloud(int id) const {
    for (const AirVolume& v : project_.volumes)
        if (v.id == id) return &v;
    return nullptr;
}

const Probe* Document::probe(int id) const {
    for (const Probe& p : project_.probes)
        if (p.id == id) return &p;
    return nullptr;
}

std::string Document::scene_digest() const {
    Digest digest;
    digest.value = asset_ ? asset_->digest : 0;
    return digest.hex();
}

void Document::edit(const QString& label, const std::function<void(Project&)>& change, const QString& merge) {
    Project next = project_;
    change(next);
    settle_targets(next);
    if (next == project_) return;
    choosing_ = next.choice != project_.choice;
    if (next.target != project_.target || next.targets != project_.targets) next.targetByDevice = false;
    project_ = std::move(next);
    if (!merge.isEmpty() && merge == merge_ && history_.can_undo())
        history_.replace(project_);
    else
        history_.add(project_, label.toStdString());
    merge_ = merge;
    settle_built();
    settle_isolation();
    autosave_.start();
    emit changed();
}

void Document::edit_light(const QString& label, int id, const std::function<void(Light&)>& change,
                          const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            for (Light& l : p.lights)
                if (l.id == id) change(l);
        },
        merge);
}

void Document::edit_lights(const QString& label, const std::vector<int>& ids, const std::function<void(Light&)>& change,
                           const QString& merge) {
    const std::unordered_set<int> named(ids.begin(), ids.end());
    edit(
        label,
        [&](Project& p) {
            for (Light& l : p.lights)
                if (named.count(l.id)) change(l);
        },
        merge);
}

void Document::edit_cheap_light(const QString& label, int id, const std::function<void(CheapLight&)>& change,
                                const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            for (CheapLight& l : p.cheapLights)
                if (l.id == id) change(l);
        },
        merge);
}

void Document::edit_cloud(const QString& label, int id, const std::function<void(AirVolume&)>& change,
                          const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            for (AirVolume& v : p.volumes)
                if (v.id == id) change(v);
        },
        merge);
}

void Document::edit_probe(const QString& label, int id, const std::function<void(Probe&)>& change,
                          const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            for (Probe& probe : p.probes)
                if (probe.id == id) change(probe);
        },
        merge);
}

void Document::take_captures(const std::vector<TakenCapture>& captures) {
    const Project before = project_;
    for (const TakenCapture& c : captures)
        for (Probe& p : project_.probes)
            if (p.id == c.probe) {
                p.file = c.file;
                p.captured = c.captured;
            }
    if (project_ == before) return;
    history_.replace(project_);
    autosave_.start();
    emit changed();
}

void Document::edit_stage(const QString& label, const std::function<void(flat::World&)>& change, const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            if (!p.flat) return;
            flat::World next = *p.flat;
            change(next);
            if (!(next == *p.flat)) p.flat = std::make_shared<const flat::World>(std::move(next));
        },
        merge);
}

void Document::edit_blocks(const QString& label, const std::function<void(blocks::World&)>& change,
                           const QString& merge) {
    edit(
        label,
        [&](Project& p) {
            if (!p.blocks) return;
            blocks::World next = *p.blocks;
            change(next);
            if (!(next == *p.blocks)) p.blocks = std::make_shared<const blocks::World>(std::move(next));
        },
        merge);
}

void Document::edit_objects(const QString& label, const std::vector<ObjectEdit>& edits, const QString& merge) {
    edit(
        label, [&](Project& p) { take_edits(p.objects, edits); }, merge);
}

std::vector<int> Document::add_things(const QString& label, std::vector<BuiltThing> things,
                                      const std::vector<ObjectEdit>& edits) {
    std::set<std::string> ids;
    for (const BuiltThing& t : things)
        ids.insert(t.id);
    edit(label, [&](Project& p) {
        mirolux::add_things(p.built, std::move(things));
        take_edits(p.objects, edits);
        // Clips that were chosen stay as they are; what a model brings plays too.
        if (p.clips.empty()) return;
        const auto with = built_on(asset_, p.built);
        if (!with->rig) return;
        for (const ClipPlay& play : usual_clips(*with->rig))
            if (std::none_of(p.clips.begin(), p.clips.end(), [&](const ClipPlay& c) { return c.clip == play.clip; }))
                p.clips.push_back(play);
    });
    std::vector<int> out;
    for (std::size_t i = 0; i < asset_->objects.size(); ++i)
        if (const BuiltThing* t = thing_of(*asset_, static_cast<int>(i)); t && ids.count(t->id))
            out.push_back(static_cast<int>(i));
    return out;
}

void Document::change_things(const QString& label, const std::set<std::string>& ids,
                             const std::function<void(BuiltThing&)>& change, const QString& merge) {
    edit(
        label, [&](Project& p) { mirolux::change_things(p.built, ids, change); }, merge);
}

void Document::remove_things(const QString& label, const std::set<std::string>& ids) {
    edit(label, [&](Project& p) { mirolux::remove_things(p, ids); });
}

int Document::object_count() const {
    if (!asset_) return 0;
    return static_cast<int>(asset_->objects.size()) +
           static_cast<int>(std::count_if(project_.objects.begin(), project_.objects.end(),
                                          [](const ObjectEdit& e) { return e.proxy; }));
}

void Document::isolate(std::vector<int> lights) {
    if (lights == isolated_) return;
    isolated_ = std::move(lights);
    emit changed();
}

void Document::wear_head_lamp(bool on) {
    if (on == headLamp_ || (on && !is_open())) return;
    headLamp_ = on;
    emit changed();
}

void Document::settle_isolation() {
    std::erase_if(isolated_, [this](int id) { return !light(id); });
}

std::vector<Light> Document::lights_now() const {
    if (!asset_) return {};
    Scene s{asset_, project_.lights, project_.motions, {}, placed()};
    s.clips = project_.clips;
    return lights_at(s, project_.view.seconds);
}

Scene Document::scene() const {
    if (!asset_) return {};
    Scene out = scene_on(project_, asset_, project_.target, placed());
    const std::unordered_set<int> lit(isolated_.begin(), isolated_.end());
    for (Light& l : out.lights)
        l.enabled = isolated_.empty() ? l.enabled : lit.count(l.id) > 0;
    if (headLamp_) out.lights.push_back(mirolux::head_lamp(project_.view.camera, hand_ev100(project_.setup)));
    return out;
}

Result<void> Document::set(const std::string& key, const Value& value, const QString& merge) {
    Setup probe = project_.setup;
    if (auto ok = probe.set(key, value); !ok) return ok;
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
    edit(
        QString::fromStdString(s.label), [&](Project& p) { p.setup = probe; }, merge);
    return {};
}

void Document::consider(const std::string& key, const Value& value) {
    if (!is_open()) return;
    const Setting& s = all_settings()[static_cast<std::size_t>(setting_index(key))];
    Setup setup = project_.setup;
    if (!setup.set(key, value)) return consider_nothing();
    consider_setup(QString::fromStdString(s.label + " " + to_text(value)), setup);
}

void Document::consider_setup(const QString& words, const Setup& setup) {
    if (!is_open() || setup == project_.setup) return consider_nothing();
    emit considered(Consideration{words, setup, on_target(project_.view, target())});
}

void Document::consider_target(int index) {
    if (!is_open() || index < 0 || index >= static_cast<int>(project_.targets.size()) || index == project_.target)
        return consider_nothing();
    const Target& t = project_.targets[static_cast<std::size_t>(index)];
    emit considered(Consideration{tr("Target %1").arg(QString::fromStdString(t.name)), setup_on(project_, index),
                                  on_target(project_.view, t)});
}

int Document::add_light(Light light) {
    int id = 1000000; // far from the scene's node numbers
    for (const Light& l : project_.lights)
        id = std::max(id, l.id + 1);
    light.id = id;
    edit(tr("add %1").arg(QString::fromStdString(light.name)), [&](Project& p) { p.lights.push_back(light); });
    return id;
}

void Document::suit_device(bool software) {
    if (!asset_ || !project_.targetByDevice || !software) return;
    const auto it =
        std::find_if(project_.targets.begin(), project_.targets.end(), [](const Target& t) { return t.software; });
    if (it == project_.targets.end() || &*it == &target()) return;
    const int index = static_cast<int>(it - project_.targets.begin());
    const auto take = [&](Project& p) { choose_target(p, index); };
    take(project_);
    take(savedProject_);
    history_.change_all([&](Project& p) {
        if (p.targetByDevice) take(p);
    });
    emit changed();
}

void Document::move_camera(const Camera& camera) {
    if (project_.view.camera == camera) return;
    project_.view.camera = camera;
    emit camera_moved();
}

void Document::set_seconds(double seconds) {
    if (project_.view.seconds == seconds) return;
    if (asset_) project_.view.camera = followed(scene(), project_.view.camera, project_.view.seconds, seconds);
    project_.view.seconds = seconds;
    emit camera_moved();
}

void Document::restore(Project project) {
    const View view = project_.view;
    const std::string path = project_.path, name = project_.name;
    project_ = std::move(project);
    project_.path = path;
    project_.name = name;
    // The camera stays where the person is; the picture's size belongs to the target.
    project_.view = on_target(view, project_.targets[static_cast<std::size_t>(project_.target)]);
    merge_.clear();
    settle_built();
    settle_isolation();
    autosave_.start();
    emit changed();
}

bool Document::settle_built() {
    if (asset_->built == project_.built) return false;
    const std::shared_ptr<const SceneAsset> before = asset_;
    const bool same = asset_->built && project_.built && *asset_->built == *project_.built;
    asset_ = built_on(asset_, project_.built);
    placed_.reset();
    placedEdits_ = {};
    placedOff_.clear();
    if (same) return false; // by another pointer, as undo may bring it
    warnings_ = asset_->warnings;
    emit rebuilt(before);
    return true;
}

void Document::compare_spaces() {
    if (!is_open() || !is_solid()) return;
    edit(tr("working spaces as A and B"), [](Project& p) {
        (void)p.setup.set("output.space", std::string("linear"));
        p.b = p.setup;
        (void)p.b->set("output.space", std::string("gamma"));
    });
}

void Document::undo() {
    choosing_ = false;
    if (can_undo()) restore(history_.undo());
}

void Document::redo() {
    choosing_ = false;
    if (can_redo()) restore(history_.redo());
}

bool Document::dirty() const {
    Project a = project_, b = savedProject_;
    a.view.camera = b.view.camera;
    a.view.seconds = b.view.seconds;
    if (a.built && b.built && *a.built == *b.built) a.built = b.built; // undo brings an equal one
    return !(a == b);
}

Result<void> Document::save(const QString& path) {
    const std::string old = project_.path, oldName = project_.name;
    const std::filesystem::path file = std::filesystem::absolute(path.toStdString());
    project_.path = file.string();
    if (old.empty()) project_.name = file.stem().string();
    if (auto ok = save_project(project_, *asset_, file); !ok) {
        project_.path = old;
        project_.name = oldName;
        return ok;
    }
    if (!old.empty() && old != project_.path) {
        std::error_code ec;
        if (lock_.held()) std::filesystem::remove(autosave_path(old), ec);
    }
    savedProject_ = project_;
    forget_autosave();
    lock_.take(project_.path); // saving puts a new file in the old one's place
    emit saved();
    emit changed();
    return {};
}

void Document::forget_autosave() {
    autosave_.stop();
    if (project_.path.empty()) return;
    std::error_code ec;
    std::filesystem::remove(own_autosave(), ec);
}

std::filesystem::path Document::own_autosave() const {
    const std::filesystem::path path = autosave_path(project_.path);
    return shared() ? std::filesystem::path(path.string() + "-" + std::to_string(getpid())) : path;
}

void Document::reload(std::shared_ptr<const SceneAsset> asset, QString& said) {
    std::vector<std::string> lost;
    asset = built_on(asset, project_.built);
    const Project next = rebased(project_, *asset_, *asset, lost);
    const bool clean = !dirty();
    asset_ = std::move(asset);
    warnings_ = asset_->warnings;
    make_rays();
    emit reloaded();
    edit(tr("scene file changed"), [&](Project& p) { p = next; });
    if (clean) savedProject_ = project_;
    said = tr("The scene file has changed and was read again.");
    if (!lost.empty())
        said += tr(" Edited lights and objects that it no longer has: %1.").arg(QString::fromStdString(joined(lost)));
    emit changed();
}

void Document::take_choice(std::shared_ptr<const SceneAsset> asset) {
    asset = built_on(asset, project_.built);
    if (choosing_) {
        std::vector<std::string> lost;
        project_ = rebased(project_, *asset_, *asset, lost);
        history_.replace(project_);
        choosing_ = false;
    }
    asset_ = std::move(asset);
    warnings_ = asset_->warnings;
    make_rays();
    emit reloaded();
    emit changed();
}

void Document::write_autosave_now() {
    if (!asset_ || !dirty()) return;
    if (auto ok = write_autosave(project_, *asset_, own_autosave()); !ok)
        emit autosave_failed(QString::fromStdString(to_text(ok.error())));
}

} // namespace mirolux::app
