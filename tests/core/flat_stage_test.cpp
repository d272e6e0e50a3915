#include "core/flat/flat_import.h"
#include "core/flat/flat_light.h"
#include "core/flat/flat_view.h"
#include "core/flat/pieces.h"
#include "core/flat/pixel_font.h"
#include "core/flat/trace_outline.h"
#include "core/flat/world_json.h"
#include "core/image/image_io.h"
#include "core/io/wire.h"
#include "core/plan/camera_motion.h"
#include "core/plan/frame_plan.h"
#include "core/scene/project.h"
#include "support/flat_scenes.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <fstream>

using namespace mirolux;
using namespace mirolux::test;

/// A flat scene's file in a folder of its own, with one sheet of 32 by 16 in two cells: a disc and a square.
class SceneFolder {
public:
    SceneFolder() {
        ByteImage image{32, 16, std::vector<std::uint8_t>(4 * 32 * 16, 0)};
        for (int y = 0; y < 16; ++y)
            for (int x = 0; x < 32; ++x) {
                const double dx = x % 16 - 7.5, dy = y - 7.5;
                if (x < 16 ? dx * dx + dy * dy < 49 : std::abs(dx) < 6 && std::abs(dy) < 6)
                    for (int c = 0; c < 4; ++c)
                        image.rgba[std::size_t(4 * (y * 32 + x) + c)] = c == 3 ? 255 : 200;
            }
        if (!write_png(path("sheet.png"), image)) qFatal("no sheet");
    }
    std::filesystem::path path(const char* name) const {
        return std::filesystem::path(folder_.path().toStdString()) / name;
    }
    static Json scene() {
        return {{"stage", "flat"},
                {"version", 1},
                {"bounds", {{"low", {0, 0}}, {"high", {100, 60}}}},
                {"sheets", {{{"name", "things"}, {"file", "sheet.png"}, {"cell", {16, 16}}}}},
                {"layers", {{{"name", "back"}, {"parallax", 0.5}}, {{"name", "front"}}}},
                {"sprites",
                 {{{"id", 1}, {"name", "disc"}, {"layer", "front"}, {"sheet", "things"}, {"place", {20, 30}}},
                  {{"id", 2},
                   {"name", "square"},
                   {"layer", "back"},
                   {"sheet", "things"},
                   {"place", {60, 30}},
                   {"cell", 1}}}},
                {"walls",
                 {{{"id", 1}, {"points", {{5, 5}, {15, 5}, {15, 15}}}},
                  {{"id", 10}, {"sprite", 1}, {"trace", {{"alpha", 0.5}, {"tolerance", 0.8}}}}}},
                {"lights",
                 {{{"id", 1},
                   {"name", "lamp"},
                   {"type", "point"},
                   {"position", {40, 30, 10}},
                   {"range", 30},
                   {"intensity", 1}}}},
                {"motions", {{{"light", 1}, {"kind", "pulse"}, {"period", 2}, {"depth", 0.5}}}},
                {"cameras", {{{"name", "all"}, {"center", {50, 30}}, {"span", 60}}}}};
    }
    Result<std::shared_ptr<const SceneAsset>> read(const Json& json) const {
        std::ofstream(path("scene.json")) << json.dump();
        return import_scene(path("scene.json"));
    }
    /// What is said of a scene that cannot be read.
    std::string refusal(const std::function<void(Json&)>& change) const {
        Json json = scene();
        change(json);
        const auto read_ = read(json);
        return read_ ? "read" : to_text(read_.error());
    }

private:
    QTemporaryDir folder_;
};

class flat_stage_test : public QObject {
    Q_OBJECT
private slots:
    void a_scene_file_is_read_with_its_sheets() {
        SceneFolder folder;
        const auto asset = folder.read(SceneFolder::scene());
        QVERIFY2(asset.has_value(), asset ? "" : to_text(asset.error()).c_str());
        const flat::World& w = *(*asset)->flat;
        QCOMPARE(w.sheets.front().columns, 2);
        QCOMPARE(w.sprites.size(), std::size_t(2));
        QCOMPARE(w.walls.size(), std::size_t(2));
        QCOMPARE(w.walls[1].sprite, 1);
        // The traced outline runs along the disc: no point of it farther than a pixel from a circle of 7.
        for (const glm::dvec2& p : w.walls[1].outline.points)
            QVERIFY(std::abs(glm::length(p) - 7.0) < 1.2);
        QCOMPARE((*asset)->lights.front().range, 30.0f);
        QCOMPARE((*asset)->motions.size(), std::size_t(1));
        QCOMPARE((*asset)->cameras.front().span, 60.0f);
        QVERIFY((*asset)->warnings.empty());
        const auto open = open_project(folder.path("scene.json"));
        QVERIFY(open.has_value());
        QVERIFY(open->project.setup.stage == Stage::flat && scene_of(*open).is_flat());
    }

    void what_cannot_be_read_is_told_with_place_and_remedy() {
        SceneFolder folder;
        const auto says = [&](const std::function<void(Json&)>& change, std::initializer_list<const char*> words) {
            const std::string said = folder.refusal(change);
            for (const char* word : words)
                QVERIFY2(said.find(word) != std::string::npos, said.c_str());
        };
        says([](Json& j) { j["sheets"][0]["file"] = "gone.png"; }, {"#/sheets/0/file", "gone.png", "Put it beside"});
        says([](Json& j) { j["sheets"][0]["file"] = "../sheet.png"; }, {"#/sheets/0/file", "beside the scene file"});
        says(
            [](Json& j) {
                j["walls"][0]["points"] = {{0, 0}, {10, 10}, {10, 0}, {0, 10}};
            },
            {"#/walls/0/points", "crosses itself", "in order"});
        says(
            [](Json& j) {
                Json points = Json::array();
                for (int i = 0; i < 100000; ++i)
                    points.push_back({i, i % 7});
                j["walls"][0]["points"] = points;
            },
            {"100000 points", "20000", "Simplify"});
        says([](Json& j) { j["sprites"][0]["layer"] = "attic"; }, {"#/sprites/0/layer", "attic"});
        says([](Json& j) { j["sprites"][0]["cell"] = 2; }, {"#/sprites/0/cell"});
        says([](Json& j) { j["sprites"][1]["id"] = 1; }, {"#/sprites/1/id", "another sprite"});
        says([](Json& j) { j["lights"][0]["flat"] = {{"layers", {"attic"}}}; }, {"#/lights/0/flat/layers", "attic"});
        says([](Json& j) { j["stage"] = "round"; }, {"#/stage", "round"});
        says([](Json& j) { j["walls"][1]["sprite"] = 9; }, {"#/walls/1/sprite", "9"});
        says([](Json& j) { j["walls"][0]["reflects"] = {0.5, 2, 0.5}; }, {"#/walls/0/reflects", "between 0 and 1"});
        says([](Json& j) { j["walls"][1]["emits"] = {-1, 0, 0}; }, {"#/walls/1/emits", "between 0 and 1000"});
        says([](Json& j) { j["walls"][0]["height"] = -3; }, {"#/walls/0/height"});
        // A sheet of 30,000 pixels: its header alone is enough to refuse it.
        std::vector<std::uint8_t> png = encode_png(ByteImage{1, 1, {1, 2, 3, 255}});
        png[16] = 0, png[17] = 0, png[18] = 0x75, png[19] = 0x30; // width 30000
        std::ofstream(folder.path("wide.png"), std::ios::binary)
            .write(reinterpret_cast<const char*>(png.data()), static_cast<std::streamsize>(png.size()));
        says([](Json& j) { j["sheets"][0]["file"] = "wide.png"; }, {"#/sheets/0/file"});
        // A light without range is kept, and told.
        Json json = SceneFolder::scene();
        json["lights"][0]["range"] = 0;
        const auto asset = folder.read(json);
        QVERIFY(asset && (*asset)->warnings.size() == 1 && (*asset)->warnings[0].find("no range") != std::string::npos);
    }

    void a_project_keeps_what_was_changed_of_the_stage() {
        SceneFolder folder;
        QVERIFY(folder.read(SceneFolder::scene()).has_value());
        auto open = open_project(folder.path("scene.json"));
        QVERIFY(open.has_value());
        flat::World w = *open->project.flat;
        w.sprites[0].place = {33, 44};
        w.sprites[0].turn = 0.5f;
        w.walls.erase(w.walls.begin());
        (void)flat::add_wall(w, {70, 20}, 10);
        w.walls.back().emits = {0.5f, 0.25f, 0};
        w.walls.back().reflects = {0.75f, 0.5f, 0.25f};
        w.walls.back().height = 12;
        open->project.flat = std::make_shared<const flat::World>(w);
        open->project.motions[0].period = 3;
        QVERIFY(open->project.setup.set("mask.scale", std::string("4")).has_value());
        QVERIFY(save_project(open->project, *open->asset, folder.path("own.mirolux")).has_value());
        const auto again = open_project(folder.path("own.mirolux"));
        QVERIFY2(again.has_value(), again ? "" : to_text(again.error()).c_str());
        QVERIFY(*again->project.flat == w);
        QVERIFY(again->project.setup == open->project.setup);
        QCOMPARE(again->project.motions[0].period, 3.0f);
        // The scene file's sheet of things changes under it: what was edited stays, the rest follows.
        Json json = SceneFolder::scene();
        json["sprites"][1]["place"] = {80, 30};
        const auto other = folder.read(json);
        std::vector<std::string> lost;
        const Project moved = rebased(again->project, *again->asset, **other, lost);
        QVERIFY(lost.empty());
        QCOMPARE(moved.flat->sprite(1)->place, glm::vec2(33, 44));
        QCOMPARE(moved.flat->sprite(2)->place, glm::vec2(80, 30));
        QVERIFY(!moved.flat->wall(1));
    }

    void outlines_are_traced_within_their_tolerance() {
        std::mt19937 random(3);
        for (int round = 0; round < 30; ++round) {
            const int width = 6 + static_cast<int>(random() % 20), height = 6 + static_cast<int>(random() % 20);
            std::vector<bool> pixels(static_cast<std::size_t>(width * height));
            for (std::size_t i = 0; i < pixels.size(); ++i)
                pixels[i] = random() % 3 != 0;
            const auto solid = [&](int x, int y) { return bool(pixels[static_cast<std::size_t>(y * width + x)]); };
            const auto exact = flat::trace_outline(width, height, solid, 0);
            // With nothing simplified each pixel's middle is inside by the winding of all outlines, or outside.
            for (int y = 0; y < height; ++y)
                for (int x = 0; x < width; ++x) {
                    int winding = 0;
                    for (const flat::Edge& e : flat::edges_of(exact)) {
                        const double px = x + 0.5, py = y + 0.5;
                        if ((e.a.y <= py) != (e.b.y <= py) && e.a.x > px) winding += e.b.y > e.a.y ? 1 : -1;
                    }
                    QCOMPARE(winding != 0, solid(x, y));
                }
            const double tolerance = 1.5;
            const auto simple = flat::trace_outline(width, height, solid, tolerance);
            QCOMPARE(simple.size(), exact.size());
            for (std::size_t i = 0; i < exact.size(); ++i) {
                QVERIFY(simple[i].points.size() <= exact[i].points.size());
                for (const glm::dvec2& p : exact[i].points) {
                    double nearest = 1e9;
                    for (const flat::Edge& e : flat::edges_of({simple[i]})) {
                        const glm::dvec2 d = e.b - e.a;
                        const double t = glm::clamp(glm::dot(p - e.a, d) / glm::dot(d, d), 0.0, 1.0);
                        nearest = std::min(nearest, glm::length(p - e.a - t * d));
                    }
                    QVERIFY(simple[i].points.size() < 3 || nearest <= tolerance + 1e-9);
                }
            }
        }
    }

    void the_window_maps_there_and_back_at_any_size() {
        View view;
        view.camera = flat::camera_at({30, -20}, 90);
        for (const auto& [width, height] : {std::pair(1280, 720), {333, 187}, {64, 200}}) {
            view.width = width;
            view.height = height;
            const flat::Window w = flat::window_of(view);
            for (const glm::dvec2& p : {glm::dvec2(0, 0), glm::dvec2(width, height), glm::dvec2(17.5, 3.25)})
                QVERIFY(glm::length(w.pixel(w.at(p)) - p) < 1e-9);
            // Rays, projection and sizes of the picture's tools agree with it.
            const Ray ray = ray_through(view, 17.5, 3.25);
            QVERIFY(glm::length(glm::dvec2(ray.origin) - w.at({17.5, 3.25})) < 1e-3);
            const auto back = project(view, glm::vec3(ray.origin.x, ray.origin.y, 0));
            QVERIFY(back && glm::length(glm::dvec2(*back) - glm::dvec2(17.5, 3.25)) < 1e-2);
            QVERIFY(std::abs(metres_per_pixel(view, {}) - w.units()) < 1e-6);
        }
    }

    void layers_move_by_their_parallax_and_sprites_turn_their_cells() {
        SceneFolder folder;
        const auto asset = folder.read(SceneFolder::scene());
        QVERIFY(asset.has_value());
        const flat::World& w = *(*asset)->flat;
        View view;
        view.camera = flat::camera_at({50, 30}, 60);
        view.width = 100, view.height = 60;
        const auto place_of = [&](std::uint32_t id) {
            for (const flat::Quad& q : flat::quads_of(w, view).quads)
                if (q.sprite == id + 1) return flat::window_of(view).pixel(q.middle);
            return glm::dvec2(-1);
        };
        const glm::dvec2 front = place_of(1), back = place_of(2);
        view.camera = flat::camera_at({60, 30}, 60);
        QVERIFY(std::abs(front.x - place_of(1).x - 10) < 1e-4);
        QVERIFY(std::abs(back.x - place_of(2).x - 5) < 1e-4);
        flat::World moving = w;
        moving.sprites[0].cells = 2;
        moving.sprites[0].rate = 4;
        for (const auto& [seconds, u] : {std::pair(0.0, 0.0f), {0.3, 0.5f}, {0.55, 0.0f}, {-0.1, 0.5f}}) {
            view.seconds = seconds;
            for (const flat::Quad& q : flat::quads_of(moving, view).quads)
                if (q.sprite == 2) QCOMPARE(q.uvLow.x, u);
        }
    }

    void lights_follow_the_stated_formula() {
        Light l;
        l.position = {10, 20, 5};
        l.range = 40;
        l.color = {1, 0.5f, 0.25f};
        l.intensity = 1.5f;
        for (const double d : {0.0, 10.0, 25.0, 39.0, 41.0}) {
            const double q = std::max(0.0, 1 - d * d / 1600);
            const glm::dvec3 v = flat::light_at(l, {}, {10 + d * 0.6, 20 + d * 0.8});
            QVERIFY(glm::length(v - glm::dvec3(1, 0.5, 0.25) * 1.5 * q * q) < 1e-9);
        }
        l.flat.shape = FlatShape::line;
        l.flat.length = 20;
        QVERIFY(glm::length(flat::light_at(l, {}, {18, 30}) - flat::light_at(l, {}, {10, 30})) < 1e-9); // along it
        QVERIFY(flat::light_at(l, {}, {40, 20}).r > flat::light_at(l, {}, {41, 20}).r);
        l.flat.shape = FlatShape::text;
        l.flat.text = "I";
        l.flat.size = 14;
        l.range = 8;
        SceneAsset none;
        const flat::Profile profile = flat::profile_of(l, none);
        QVERIFY(flat::light_at(l, profile, {10, 20}).r > 1.45); // in its stem
        QVERIFY(flat::light_at(l, profile, {14.5, 20}).r < 0.65 &&
                flat::light_at(l, profile, {14.5, 20}).r > 0.1); // beside
        QCOMPARE(flat::light_at(l, profile, {30, 20}).r, 0.0);
        QCOMPARE(flat::width_of("TIDE"), 23);
        QVERIFY(flat::pixels_of("tide").size() == flat::pixels_of("TIDE").size());
    }

    void a_limit_holds_the_sum_and_never_lowers_it() {
        std::vector<Light> lights(3);
        lights[0].flat.strongest = 0.6f;
        lights[1].flat.strongest = 0;
        lights[2].flat.strongest = 0.3f;
        const auto groups = flat::groups_of(lights);
        QCOMPARE(groups.size(), std::size_t(3));
        QVERIFY(groups[0].most < groups[1].most && groups[2].most == 0);
        const auto sum = [&](double base, double a, double b, double c) {
            return flat::joined(groups, {glm::dvec3(a), glm::dvec3(b), glm::dvec3(c)}, glm::dvec3(base),
                                flat::Blend::add)
                .x;
        };
        QVERIFY(std::abs(sum(0.1, 0.0, 0.0, 0.9) - 0.3) < 1e-6); // the third alone stops at 0.3
        QVERIFY(std::abs(sum(0.1, 0.9, 0.0, 0.9) - 0.6) < 1e-6); // the first goes on to 0.6
        QVERIFY(std::abs(sum(0.1, 0.9, 0.5, 0.9) - 1.1) < 1e-6); // the second as it will
        QVERIFY(std::abs(sum(0.8, 0.9, 0.0, 0.9) - 0.8) < 1e-6); // what is brighter already stays
        const std::vector<flat::LightGroup> plain = {{0, {0, 1}}};
        QVERIFY(
            std::abs(flat::joined(plain, {glm::dvec3(0.5), glm::dvec3(0.4)}, glm::dvec3(0.2), flat::Blend::screen).x -
                     (1 - 0.8 * 0.5 * 0.6)) < 1e-9);
        QVERIFY(
            std::abs(flat::joined(plain, {glm::dvec3(0.5), glm::dvec3(0.4)}, glm::dvec3(0.2), flat::Blend::largest).x -
                     0.5) < 1e-9);
    }

    void fans_cover_what_rays_see() {
        for (unsigned seed = 0; seed < 12; ++seed) {
            const FlatStage s = flat_stage(seed, 3, 8);
            const auto edges = flat::edges_of(flat::outlines_of(*s.scene.flat));
            const flat::Window window = flat::window_of(s.view);
            std::vector<Light> lights = s.scene.lights;
            lights[2].type = LightType::directional;
            lights[2].direction = glm::normalize(glm::vec3(0.4f, -0.8f, -0.3f));
            std::mt19937 random(seed + 100);
            for (const Light& l : lights) {
                const std::vector<glm::vec2> fan = flat::fan_of(edges, l, *s.scene.flat, window);
                int wrong = 0;
                for (int i = 0; i < 400; ++i) {
                    const glm::dvec2 p(128.0 * (random() % 10000) / 10000, 72.0 * (random() % 10000) / 10000);
                    int inside = 0;
                    for (std::size_t t = 0; t + 2 < fan.size(); t += 3) {
                        const auto side = [&](std::size_t a, std::size_t b) {
                            const glm::dvec2 u(fan[a]), v(fan[b]);
                            return (v.x - u.x) * (p.y - u.y) - (v.y - u.y) * (p.x - u.x);
                        };
                        const double a = side(t, t + 1), b = side(t + 1, t + 2), c = side(t + 2, t);
                        inside += (a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0);
                    }
                    const bool reaches = l.type == LightType::directional || (std::abs(p.x - l.position.x) < l.range &&
                                                                              std::abs(p.y - l.position.y) < l.range);
                    const bool seen = reaches && flat::sees(edges, flat::shadow_origin(l, p), p);
                    wrong += (inside > 0) != seen; // points within rounding of an edge
                }
                QVERIFY2(wrong <= 1, qPrintable(QString("%1 wrong of 400, seed %2").arg(wrong).arg(seed)));
            }
        }
    }

    void lights_out_of_view_are_left_out_and_counted() {
        FlatStage s = flat_stage(4, 12, 0);
        s.view.camera = flat::camera_at({20, 20}, 20);
        const DrawList list = build_draw_list(s.scene, s.setup, s.view);
        const flat::Window w = flat::window_of(s.view);
        int touching = 0;
        for (const Light& l : s.scene.lights)
            touching += w.touches(glm::dvec2(l.position) - double(l.range), glm::dvec2(l.position) + double(l.range));
        QCOMPARE(static_cast<int>(list.lights.size()), touching);
        QCOMPARE(list.lightsOutside, 12 - touching);
        QVERIFY(touching > 0 && touching < 12);
    }

    void settings_and_layers_belong_to_their_stage() {
        const FlatStage s = flat_stage(1, 4, 3);
        const Setup solid;
        const auto setting = [](const char* key) {
            return all_settings()[static_cast<std::size_t>(setting_index(key))];
        };
        QVERIFY(applies(setting("flat.kind"), s.setup) && !applies(setting("flat.kind"), solid));
        QVERIFY(!applies(setting("path.kind"), s.setup) && applies(setting("path.kind"), solid));
        QVERIFY(applies(setting("tone.curve"), s.setup) && applies(setting("tone.curve"), solid));
        QVERIFY(shows(*find_layer("lightmask"), s.setup, false) && !shows(*find_layer("lightmask"), solid, false));
        const FramePlan plan = plan_frame(s.scene, s.setup, s.view);
        for (const PlannedPass& p : plan.passes)
            QVERIFY2(p.technique->stages != Stages::solid, p.name.c_str());
        const Json json = Json::parse(to_json(s.setup).dump());
        QVERIFY(setup_from_json(JsonCursor(json)) == s.setup);
    }

    void pieces_are_taken_hold_of_and_dragged() {
        SceneFolder folder;
        const auto asset = folder.read(SceneFolder::scene());
        QVERIFY(asset.has_value());
        const flat::World w = *(*asset)->flat;
        View view;
        view.camera = flat::camera_at({50, 30}, 60);
        view.width = 200, view.height = 120;
        const flat::Piece disc{flat::PieceKind::sprite, 1};
        QVERIFY(flat::piece_at(w, **asset, view, {20, 30}, 1, false) == disc);
        QVERIFY(flat::piece_at(w, **asset, view, {13, 37.4}, 1, false).none()); // in its box, beside the disc
        QVERIFY(flat::piece_at(w, **asset, view, {10, 5.2}, 1, true).kind == flat::PieceKind::wall);
        QVERIFY(flat::piece_at(w, **asset, view, {20, 30}, 0.1, false, {disc}).none());
        const flat::World moved =
            flat::dragged(w, disc, {flat::Grip::body, 0, {}}, view.camera, {20, 30}, {25.4, 28}, true);
        QCOMPARE(moved.sprite(1)->place, glm::vec2(25, 28));
        // The wall that goes with it has gone along.
        QVERIFY(std::abs(flat::outline_of(moved, moved.walls[1]).points[0].x -
                         flat::outline_of(w, w.walls[1]).points[0].x - 5) < 1e-6);
        const auto grips = flat::grips_of(w, disc, view.camera, 0.5);
        const flat::World sized = flat::dragged(w, disc, grips[0], view.camera, {28, 38}, {36, 46}, false);
        QVERIFY(std::abs(sized.sprite(1)->scale.x - 2) < 1e-5);
        const flat::World turned = flat::dragged(w, disc, grips[1], view.camera, {20, 50}, {0, 30}, true);
        QVERIFY(std::abs(turned.sprite(1)->turn - 1.5707963f) < 1e-5);
        const flat::Piece wall{flat::PieceKind::wall, 1};
        flat::World more =
            flat::dragged(w, wall, {flat::Grip::between, 0, {10, 5}}, view.camera, {10, 5}, {10, 1}, false);
        QCOMPARE(more.wall(1)->outline.points.size(), std::size_t(4));
        QVERIFY(glm::length(more.wall(1)->outline.points[1] - glm::dvec2(10, 1)) < 1e-9);
        more.walls[0].outline.points[1] = {5.2, 5};
        QVERIFY(flat::merge_point(more, wall, 1, 0.5));
        QCOMPARE(more.wall(1)->outline.points.size(), std::size_t(3));
        QVERIFY(!flat::merge_point(more, wall, 1, 100)); // three are left
        flat::World twice = w;
        const flat::Piece copy = flat::duplicate(twice, disc, {3, 0});
        QCOMPARE(twice.walls.size(), w.walls.size() + 1); // its outline comes along
        flat::erase(twice, copy);
        QVERIFY(twice == w);
    }

    void motions_of_flat_lights_keep_to_what_they_say() {
        Light l;
        l.id = 1;
        l.intensity = 2;
        l.direction = {1, 0, 0};
        Motion m;
        m.light = 1;
        m.period = 4;
        const auto at = [&](double seconds) { return lights_at({l}, {m}, seconds).front(); };
        m.kind = MotionKind::pulse;
        m.depth = 0.5f;
        QVERIFY(std::abs(at(0).intensity - 2) < 1e-6 && std::abs(at(2).intensity - 1) < 1e-6);
        m.kind = MotionKind::flicker;
        m.depth = 0.8f;
        float least = 9, most = 0;
        for (int i = 0; i < 400; ++i) {
            const float v = at(i * 0.05).intensity;
            QCOMPARE(v, at(i * 0.05).intensity);
            least = std::min(least, v);
            most = std::max(most, v);
        }
        QVERIFY(least >= 0.4f - 1e-5f && least < 1.0f && most <= 2.0f && most > 1.3f);
        m.seed = 2;
        const float other = at(1.3).intensity;
        m.seed = 1;
        QVERIFY(other != at(1.3).intensity);
        m.kind = MotionKind::turn;
        m.angle = 6.2831853f;
        QVERIFY(glm::length(at(1).direction - glm::vec3(0, 1, 0)) < 1e-5);
        m.kind = MotionKind::path;
        m.way = {{0, 0, 0}, {10, 0, 0}, {10, 10, 0}, {0, 10, 0}};
        QVERIFY(glm::length(at(1.5).position - glm::vec3(10, 5, 0)) < 1e-4);
        m.seed = Motion().seed;
        m.depth = Motion().depth; // a path has neither
        const Json json = Json::parse(to_json(m).dump());
        QVERIFY(motion_from_json(JsonCursor(json)) == m);
        l.flat = {FlatShape::text, "", "GATE", 12, 9, 0.5f, 3, 0.7f, {"front"}, false};
        const Json light = Json::parse(to_json(l).dump());
        QVERIFY(light_from_json(JsonCursor(light)) == l);
    }
};

MIROLUX_TEST(flat_stage_test)
#include "flat_stage_test.moc"
