#include "core/cost/logbook.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <csignal>
#include <sys/wait.h>
#include <unistd.h>

using namespace mirolux;
using namespace mirolux::test;

class project_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) const { return std::filesystem::path(folder_.path().toStdString()) / name; }

    static Measurement made_measurement(double ms) {
        Measurement m;
        m.passes = {{"opaque", "opaque", {ms, ms * 0.9, ms * 1.1}, {10, 20, 30, 40}}};
        m.passMs = {{ms, ms, ms}};
        m.frameMs = {ms, ms, ms};
        m.frame = {ms, ms * 0.9, ms * 1.1};
        m.rounds = 3;
        m.width = 64;
        m.height = 36;
        m.clock = "fenced";
        m.thumbnail = {4, 2, std::vector<std::uint8_t>(32, 128)};
        return m;
    }
    static State made_state(int lights) {
        State s;
        s.lights = random_scene(1, lights).lights;
        return s;
    }

private slots:
    void an_edited_project_comes_back_the_same() {
        auto open = open_project(MIROLUX_DEMO, {.decodeImages = false});
        QVERIFY(open.has_value());
        Project p = open->project;
        p.lights[3].intensity = 77;
        p.lights[4].name = "renamed, with \"quotes\"";
        p.lights.erase(p.lights.begin() + 10);
        Light added = p.lights[5];
        added.id = 1000001;
        added.name = "added";
        p.lights.push_back(added);
        QVERIFY(p.setup.set("path.maxLights", 12).has_value());
        p.targets.push_back({"Small", 320, 180, 50, 0, 0.5, Stereo::onePass, 0.07f, "handheld"});
        p.target = static_cast<int>(p.targets.size()) - 1;
        p.view = on_target(p.view, p.targets.back());
        p.path = file("edited.mirolux").string();
        QVERIFY(save_project(p, *open->asset, p.path).has_value());
        auto again = open_project(p.path, {.decodeImages = false});
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QCOMPARE(again->project.lights.size(), p.lights.size());
        QVERIFY(again->project.lights == p.lights);
        QVERIFY(again->project == p);
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

    void logbook_keeps_entries_and_says_what_changed() {
        std::filesystem::remove(file("a.logbook"));
        auto book = Logbook::open(file("a.logbook"));
        QVERIFY(book.has_value());
        State s = made_state(5);
        const Target target = plain_target("Desk", 64, 36, 16.67);
        QVERIFY(book->add(s, made_measurement(20), {}, target, "d").has_value());
        QVERIFY(s.setup.set("path.maxLights", 16).has_value());
        s.lights[2].position += glm::vec3(3, 0, 4);
        s.lights.pop_back();
        const auto second = book->add(s, made_measurement(15), {}, target, "d");
        QVERIFY(second.has_value());
        auto entries = book->entries();
        QVERIFY(entries.has_value());
        QCOMPARE(entries->size(), std::size_t(2));
        const auto& changes = entries->front().changes;
        QVERIFY(std::find(changes.begin(), changes.end(), "Lights an object (K) 8 \u2192 16") != changes.end());
        QVERIFY(std::find(changes.begin(), changes.end(), "light 2 moved 5 m") != changes.end());
        QVERIFY(std::find(changes.begin(), changes.end(), "light 4 deleted") != changes.end());
        QVERIFY(*book->state(*second) == s);
        QVERIFY(book->annotate(*second, "better").has_value());
        QVERIFY(book->remove(*second).has_value());
        QCOMPARE(book->entries()->size(), std::size_t(1));
        QVERIFY(book->bring_back(*second).has_value());
        QCOMPARE(book->entries()->front().note, std::string("better"));
        QVERIFY(!book->remove(12345).has_value());
    }

    void a_file_that_is_no_logbook_is_refused() {
        QVERIFY(write_file_atomically(file("no.logbook"), std::string(5000, 'x')).has_value());
        const auto book = Logbook::open(file("no.logbook"));
        QVERIFY(!book.has_value() && !book.error().remedy.empty());
    }

    /// A child writes entries as fast as it can and is killed at a random moment, twenty times over: the file opens and holds whole entries.
    void logbook_survives_a_kill_in_the_middle_of_writing() {
        const auto path = file("killed.logbook");
        std::mt19937 random(5);
        std::size_t before = 0;
        for (int round = 0; round < 20; ++round) {
            const pid_t child = fork();
            if (child == 0) {
                auto book = Logbook::open(path);
                if (!book) _exit(1);
                for (int i = 0; i < 100000; ++i)
                    (void)book->add(made_state(60), made_measurement(i), {}, {}, "d");
                _exit(0);
            }
            usleep(20000 + random() % 60000);
            kill(child, SIGKILL);
            waitpid(child, nullptr, 0);
            auto book = Logbook::open(path);
            QVERIFY2(book.has_value(), book ? "" : to_text(book.error()).c_str());
            auto entries = book->entries();
            QVERIFY(entries.has_value());
            QVERIFY(entries->size() >= before);
            for (const Entry& e : *entries)
                QVERIFY(e.frame.median >= 0 && !e.thumbnail.empty() && e.rounds == 3);
            if (!entries->empty()) QVERIFY(book->state(entries->front().id).has_value());
            before = entries->size();
        }
        QVERIFY(before > 5);
    }
};

MIROLUX_TEST(project_test)
#include "project_test.moc"
