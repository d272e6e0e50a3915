#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/file_lock.h"
#include "core/io/wire.h"
#include "core/plan/camera_motion.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <set>
#include <sys/stat.h>

using namespace mirolux;
using namespace mirolux::test;

class project_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) const {
        return std::filesystem::path(folder_.path().toStdString()) / name;
    }

private slots:
    void an_edited_project_comes_back_the_same() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        Project p = open->project;
        p.lights[3].intensity = 77;
        p.lights[3].sourceSize = 0.25f;
        p.lights[4].name = "renamed, with \"quotes\"";
        p.lights.erase(p.lights.begin() + 10);
        Light added = p.lights[5];
        added.id = 1000001;
        added.name = "added";
        p.lights.push_back(added);
        QVERIFY(p.setup.set("path.maxLights", 12).has_value());
        p.targets.push_back({"Small", 320, 180, 50, 0, 0.5, Stereo::onePass, 0.07f, "handheld", false, {}, {}, {}});
        QVERIFY(p.targetByDevice && p.targets[3].software); // the demo leaves the choice to the window
        p.targetByDevice = false;
        p.target = static_cast<int>(p.targets.size()) - 1;
        p.view = on_target(p.view, p.targets.back());
        p.b = p.setup;
        QVERIFY(p.b->set("path.depthPrepass", true).has_value());
        p.path = file("edited.mirolux").string();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        auto again = open_project(p.path, {.decodeImages = false});
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QCOMPARE(again->project.lights.size(), p.lights.size());
        QVERIFY(again->project.lights == p.lights);
        QVERIFY(again->project == p);
    }

    /// Each target its own setup, lights and objects: chosen back and forth, edited, copied, kept in the file.
    void targets_keep_their_own_setups_and_what_is_off_on_them() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        Project p = open->project;
        p.targetByDevice = false;
        const SceneAsset& asset = *open->asset;
        const Setup start = p.setup;
        const auto path_on = [&](int target) { return setup_on(p, target).choice("path.kind"); };
        const std::string was = start.choice("path.kind");
        choose_target(p, 1);
        QCOMPARE(p.view.width, p.targets[1].width);
        own_setup(p, true);
        QVERIFY(p.setup.set("path.kind", std::string("tiled-forward")).has_value());
        settle_targets(p);
        p.targets[1].offLights = {p.lights[2].id, p.lights[5].id};
        std::sort(p.targets[1].offLights.begin(), p.targets[1].offLights.end());
        p.targets[1].offObjects = {asset.objectNames[10].id};
        QCOMPARE(path_on(0), was);
        QCOMPARE(path_on(1), std::string("tiled-forward"));
        choose_target(p, 0); // the shared one is edited now
        QVERIFY(!p.shared && p.setup == start);
        QVERIFY(p.setup.set_text("culling.tile", "32").has_value());
        QCOMPARE(setup_on(p, 2).choice("culling.tile"), std::string("32"));
        QCOMPARE(setup_on(p, 1).choice("culling.tile"), start.choice("culling.tile"));
        // What differs is listed.
        const auto listed = target_differences(p, asset, 1);
        QCOMPARE(listed.size(), std::size_t(5)); // path, tile, two lights, one object
        QVERIFY(target_differences(p, asset, 0).empty());
        // The scene without what is off.
        const Scene there = scene_on(p, open->asset, 1), here = scene_on(p, open->asset, 0);
        QVERIFY(!there.lights[2].enabled && here.lights[2].enabled);
        QVERIFY(there.objects()[10].hidden && !here.objects()[10].hidden);
        // Copied from target to target, and shared again.
        choose_target(p, 2);
        take_setup_of(p, 1);
        QCOMPARE(path_on(2), std::string("tiled-forward"));
        QVERIFY(p.setup.set("path.kind", std::string("deferred")).has_value());
        settle_targets(p);
        QCOMPARE(path_on(1), std::string("tiled-forward")); // a copy
        QCOMPARE(path_on(0), was);
        p.path = file("targets.mirolux").string();
        QVERIFY(save_project(p, asset, p.path).has_value());
        const auto again = open_project(p.path, {.decodeImages = false});
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QVERIFY(again->project == p);
        take_setup_of(p, 0);
        QVERIFY(!p.targets[2].setup && !p.shared);
        QCOMPARE(path_on(2), was);
        // Adding copies, erasing goes to a neighbour: nobody's setup is lost or mixed up.
        choose_target(p, 1);
        add_target(p);
        QCOMPARE(p.target, static_cast<int>(p.targets.size()) - 1);
        QCOMPARE(p.setup.choice("path.kind"), std::string("tiled-forward"));
        QVERIFY(p.setup.set("path.kind", std::string("volumes")).has_value());
        settle_targets(p);
        QCOMPARE(path_on(1), std::string("tiled-forward"));
        erase_target(p);
        QVERIFY(!p.shared || p.targets[std::size_t(p.target)].setup == p.setup);
        QCOMPARE(path_on(0), was);
        QCOMPARE(path_on(1), std::string("tiled-forward"));
        choose_target(p, 1);
        erase_target(p);
        QCOMPARE(setup_on(p, 0).choice("path.kind"), was);
    }

    /// Defaults changed with version 2: what an older project leaves out is what it was in its time.
    void an_older_project_keeps_its_look() {
        auto bytes = read_file(MIROLUX_DEMO);
        QVERIFY(bytes.has_value());
        auto d = nlohmann::json::parse(bytes->begin(), bytes->end());
        d["scene"] = std::filesystem::path(MIROLUX_DEMO).replace_extension(".glb").string();
        const auto read = [&]() -> Project {
            if (!write_file_atomically(file("old.mirolux"), d.dump())) qFatal("not written");
            auto open = open_project(file("old.mirolux"), {.decodeImages = false});
            if (!open) qFatal("%s", to_text(open.error()).c_str());
            return open->project;
        };
        const glm::vec3 night(0.045f, 0.062f, 0.100f);
        d["version"] = 1;
        d["setup"] = {{"ambient.side", {1, 2, 3}}};
        d["setups"] = {{"other", nlohmann::json::object()}};
        d["b"] = nlohmann::json::object();
        Project p = read();
        QCOMPARE(p.setup.color("ambient.side"), glm::vec3(1, 2, 3));
        for (const Setup* s : {&p.setup, &*p.b, &p.setups.front().second})
            QCOMPARE(s->color("ambient.top"), night);
        d.erase("setup");
        QCOMPARE(read().setup.color("ambient.top"), night);
        d["version"] = 2;
        QVERIFY(read().setup == Setup());
        QVERIFY(Setup().color("ambient.top") != night);
    }

    /// All corners in view and one of them near its edge, for boxes of any shape and size; none before the near plane.
    void a_framing_camera_sees_the_whole_box_and_little_else() {
        for (const glm::vec3 size : {glm::vec3(1), glm::vec3(200, 2, 90), glm::vec3(0.001f, 0.003f, 0.002f),
                                     glm::vec3(0.1f, 40, 0.2f), glm::vec3(3000)}) {
            Box box;
            box.add(glm::vec3(5, -3, 2) * size);
            box.add(glm::vec3(6, -2, 3) * size);
            View v;
            v.camera = framing(box, 0.9f);
            double farthest = 0;
            for (int i = 0; i < 8; ++i) {
                const glm::vec3 corner(i & 1 ? box.high.x : box.low.x, i & 2 ? box.high.y : box.low.y,
                                       i & 4 ? box.high.z : box.low.z);
                const auto p = project(v, corner);
                QVERIFY(p && p->x > 0 && p->x < v.width && p->y > 0 && p->y < v.height);
                farthest =
                    std::max({farthest, std::abs(2.0 * p->x / v.width - 1), std::abs(2.0 * p->y / v.height - 1)});
                const glm::vec3 ahead = glm::normalize(v.camera.aim - v.camera.eye);
                QVERIFY(glm::dot(corner - v.camera.eye, ahead) > v.camera.near);
            }
            QVERIFY2(farthest > 0.85 && farthest < 0.95, qPrintable(QString::number(farthest)));
        }
    }

    void a_broken_project_names_file_and_pointer() {
        auto bytes = read_file(MIROLUX_DEMO);
        QVERIFY(bytes.has_value());
        const auto good = nlohmann::json::parse(bytes->begin(), bytes->end());
        const std::string scene = std::filesystem::path(MIROLUX_DEMO).replace_extension(".glb").string();
        auto refused = [&](const char* pointer, nlohmann::json value, const char* where) {
            auto d = good;
            d["scene"] = scene;
            d[nlohmann::json::json_pointer(pointer)] = std::move(value);
            if (!write_file_atomically(file("bad.mirolux"), d.dump())) return false;
            const auto open = open_project(file("bad.mirolux"), {.decodeImages = false});
            if (open) return false;
            return open.error().where.find(where) != std::string::npos;
        };
        QVERIFY(refused("/schema", "other", "#/schema"));
        QVERIFY(refused("/version", 99, "#/version"));
        QVERIFY(refused("/setup", {{"path.maxLights", 900}}, "#/setup/path.maxLights"));
        QVERIFY(refused("/targets/0/width", -3, "#/targets/0/width"));
        QVERIFY(refused("/target", "by magic", "#/target"));
        QVERIFY(refused("/walks/0/keys/2/seconds", 0, "#/walks/0/keys/2/seconds"));
        QVERIFY(refused("/motions/0/kind", "hop", "#/motions/0/kind"));
        QVERIFY(refused("/scene", "absent.glb", "absent.glb"));
        QVERIFY(write_file_atomically(file("bad.mirolux"), std::string("{ not json")).has_value());
        QVERIFY(!open_project(file("bad.mirolux")).has_value());
    }

    void a_walk_passes_through_its_keys() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        const Walk& w = open->project.walks[0];
        for (const WalkKey& k : w.keys)
            QVERIFY(glm::length(camera_on(w, k.seconds).eye - k.eye) < 1e-3f);
        for (double t = 0; t < w.keys.back().seconds; t += 0.1)
            QVERIFY(glm::length(camera_on(w, t + 0.1).eye - camera_on(w, t).eye) < 2.0f);
    }

    void a_failed_save_leaves_the_old_file_whole() {
        QVERIFY(write_file_atomically(file("kept.txt"), std::string("old")).has_value());
        // A full disk, for real: the kernel refuses every write to it.
        const auto failed = write_file_atomically("/dev/full/x", std::string("new"));
        QVERIFY(!failed.has_value() && !failed.error().remedy.empty());
        const auto still = read_file(file("kept.txt"));
        QVERIFY(still.has_value());
        QCOMPARE(std::string(still->begin(), still->end()), std::string("old"));
    }

    void exr_and_png_come_back_as_written() {
        FloatImage f{5, 3, 3, {}};
        for (int i = 0; i < 45; ++i)
            f.data.push_back(0.1f * static_cast<float>(i) + 0.003f);
        QVERIFY(write_exr(file("x.exr"), f).has_value());
        const auto back = read_exr(file("x.exr"));
        QVERIFY(back.has_value());
        for (int y = 0; y < 3; ++y)
            for (int x = 0; x < 5; ++x)
                for (int c = 0; c < 3; ++c)
                    QCOMPARE(back->pixel(x, y)[c], f.pixel(x, y)[c]);
        ByteImage b{2, 2, {1, 2, 3, 255, 4, 5, 6, 255, 7, 8, 9, 255, 10, 11, 12, 255}};
        QVERIFY(write_png(file("x.png"), b).has_value());
        QVERIFY(*read_png(file("x.png")) == b);
    }

    /// The scene file was saved anew while lights had been edited.
    void edits_stay_when_the_scene_file_changes() {
        SceneAsset from, to;
        from.lights = random_scene(9, 6).lights;
        to.lights = from.lights;
        to.lights[1].intensity *= 2;            // the file changed it
        to.lights.erase(to.lights.begin() + 4); // and lost one
        to.lights.push_back(from.lights[0]);    // and has a new one
        to.lights.back().id = 40;
        Project p;
        p.lights = from.lights;
        p.lights[2].range = 3.5f;             // edited here
        p.lights[4].range = 2.5f;             // edited here, gone there
        p.lights.erase(p.lights.begin() + 5); // removed here
        p.lights.push_back(from.lights[3]);   // added here, under an id that the file has taken meanwhile
        p.lights.back().id = 40;
        p.lights.back().name = "mine";
        std::vector<std::string> lost;
        const Project now = rebased(p, from, to, lost);
        QCOMPARE(lost, std::vector<std::string>{from.lights[4].name});
        const auto find = [&](int id) {
            const auto it =
                std::find_if(now.lights.begin(), now.lights.end(), [&](const Light& l) { return l.id == id; });
            return it == now.lights.end() ? nullptr : &*it;
        };
        QCOMPARE(find(1)->intensity, to.lights[1].intensity);
        QCOMPARE(find(2)->range, 3.5f);
        QVERIFY(!find(4) && !find(5) && find(40) && find(40)->name != "mine");
        QCOMPARE(find(41)->name, std::string("mine"));
        std::set<int> ids;
        for (const Light& l : now.lights)
            QVERIFY(ids.insert(l.id).second);
    }

    void a_file_is_locked_by_one_holder() {
        QVERIFY(write_file_atomically(file("held.mirolux"), std::string("x")).has_value());
        FileLock one, other;
        QVERIFY(one.take(file("held.mirolux")));
        QVERIFY(!other.take(file("held.mirolux")));
        one.release();
        QVERIFY(other.take(file("held.mirolux")) && other.held());
        QVERIFY(!one.take(file("none.mirolux")));
    }

    void pipes_are_no_files() {
        const auto path = file("pipe.glb");
        QVERIFY(mkfifo(path.c_str(), 0600) == 0);
        const auto refused = open_project(path);
        QVERIFY(!refused.has_value());
        QVERIFY2(refused.error().what.find("not a plain file") != std::string::npos, refused.error().what.c_str());
    }

    /// Small files that would cost gigabytes are refused before anything is taken.
    void little_files_that_name_much_are_refused() {
        const std::string huge =
            R"({"asset":{"version":"2.0"},"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"nodes":[{"mesh":0}],"scenes":[{"nodes":[0]}],"accessors":[{"componentType":5126,"type":"VEC3","count":260000000}]})";
        QVERIFY(write_file_atomically(file("huge.gltf"), huge).has_value());
        QElapsedTimer clock;
        clock.start();
        const auto refused = open_project(file("huge.gltf"));
        QVERIFY(!refused.has_value());
        QVERIFY2(refused.error().what.find("more memory than the limit") != std::string::npos,
                 to_text(refused.error()).c_str());
        QVERIFY(refused.error().where.find("#/") != std::string::npos);
        QVERIFY(clock.elapsed() < 2000);
    }

    void names_that_are_not_utf8_do_not_end_the_program() {
        const nlohmann::json j = {{"name", "caf\xE9"}};
        QVERIFY(json_text(j).find("caf") != std::string::npos);
    }

    void the_wire_keeps_lights_to_the_bit() {
        const auto lights = random_scene(9, 30).lights;
        auto changed = lights;
        changed[7].intensity = 1.2345678f;
        changed.pop_back();
        std::vector<Light> there = lights;
        const auto patch = nlohmann::json::from_cbor(nlohmann::json::to_cbor(light_patch(lights, changed)));
        QCOMPARE(patch["set"].size(), std::size_t(1)); // only what changed travels
        apply_light_patch(there, JsonCursor(patch));
        QVERIFY(there == changed);
    }
};

MIROLUX_TEST(project_test)
#include "project_test.moc"
