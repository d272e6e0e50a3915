#include "core/blocks/colors.h"
#include "core/blocks/drawn_scene.h"
#include "core/blocks/lamp_audit.h"
#include "core/blocks/make_blocks.h"
#include "core/image/image_io.h"
#include "core/rays/ray_scene.h"
#include "core/truth/truth_picture.h"
#include "support/block_worlds.h"
#include "support/scenes.h"
#include "support/test_main.h"
#include <QtTest>
#include <random>
#include <set>

using namespace mirolux;
using namespace mirolux::blocks;
using namespace mirolux::test;

/// Blocks from meshes and pictures, and meshes from blocks.
class make_blocks_test : public QObject {
    Q_OBJECT

    /// True if some point of a triangle lies in the box, by very many points of it.
    static bool meets_by_points(const glm::dvec3 (&t)[3], const glm::dvec3& middle, const glm::dvec3& half) {
        constexpr int n = 240;
        for (int i = 0; i <= n; ++i)
            for (int j = 0; i + j <= n; ++j) {
                const glm::dvec3 p = t[0] + (t[1] - t[0]) * (double(i) / n) + (t[2] - t[0]) * (double(j) / n);
                if (glm::all(glm::lessThanEqual(glm::abs(p - middle), half))) return true;
            }
        return false;
    }

private slots:
    void triangles_meet_boxes_where_their_points_do() {
        std::mt19937 r(5);
        std::uniform_real_distribution<double> u(-1, 1);
        int met = 0, near = 0;
        for (int i = 0; i < 600; ++i) {
            glm::dvec3 t[3];
            for (glm::dvec3& v : t)
                v = 1.6 * glm::dvec3(u(r), u(r), u(r));
            const glm::dvec3 middle = 0.6 * glm::dvec3(u(r), u(r), u(r)), half(0.4, 0.3, 0.5);
            const bool is = triangle_meets_box(t, middle, half);
            met += is;
            if (meets_by_points(t, middle, half)) {
                QVERIFY(is);
            } else if (is) { // by less than points lie apart
                QVERIFY(meets_by_points(t, middle, half + 0.02));
                ++near;
            }
        }
        QVERIFY2(met > 100 && met < 550 && near < 40, qPrintable(QString("%1 %2").arg(met).arg(near)));
    }

    /// Cells are solid where a surface passes, and nowhere else; a lamp becomes a cell that shines.
    void surfaces_become_cells() {
        const Scene scene = random_scene(4, 12);
        const MakeOptions options{.edge = 0.2f};
        const auto made = make_blocks(scene, options);
        QVERIFY2(made.has_value(), made ? "" : to_text(made.error()).c_str());
        const Volume& v = made->world.still;
        Box bounds;
        for (const Object& o : scene.objects())
            bounds.add(o.bounds);
        const glm::dvec3 corner(bounds.low - options.edge);
        std::set<std::tuple<int, int, int>> wanted;
        std::mt19937 r(3);
        std::uniform_real_distribution<double> u(0, 1);
        for (const Object& o : scene.objects()) {
            const Primitive& p = scene.asset->primitives[std::size_t(o.primitive)];
            for (std::size_t t = 0; t < p.indices.size(); t += 3)
                for (int n = 0; n < 60; ++n) { // points of every surface lie in solid cells
                    double a = u(r), b = u(r);
                    if (a + b > 1) a = 1 - a, b = 1 - b;
                    glm::dvec3 at(0.0);
                    const double w[3] = {1 - a - b, a, b};
                    for (std::size_t k = 0; k < 3; ++k)
                        at += w[k] * glm::dvec3(o.transform * glm::vec4(p.vertices[p.indices[t + k]].position, 1));
                    const glm::dvec3 in = (at - corner) / double(options.edge);
                    const glm::ivec3 c(glm::floor(in));
                    if (glm::length(in - glm::round(in)) < 1e-3) continue;
                    wanted.insert({c.x, c.y, c.z});
                }
        }
        int missing = 0;
        for (const auto& [x, y, z] : wanted)
            missing += v.at({x, y, z}) == 0;
        QVERIFY2(missing * 1000 < int(wanted.size()), qPrintable(QString("%1 of %2").arg(missing).arg(wanted.size())));
        // Light alone stands within: rays along an axis meet a solid cell no farther than the surface.
        const RayScene rays(scene);
        int compared = 0;
        for (int n = 0; n < 400; ++n) {
            const glm::vec3 from(bounds.low.x + float(u(r)) * bounds.size().x, bounds.high.y + 1,
                                 bounds.low.z + float(u(r)) * bounds.size().z);
            const RayHit hit = rays.any_surface({from, {0, -1, 0}}, 0, false);
            if (hit.object < 0) continue;
            glm::ivec3 c(glm::floor((glm::dvec3(from) - corner) / double(options.edge)));
            while (c.y >= 0 && (v.at(c) == 0 || made->world.material(v.at(c)).name.starts_with("lamp")))
                --c.y;
            const double top = corner.y + (c.y + 1) * double(options.edge), surface = double(from.y) - hit.distance;
            QVERIFY2(std::abs(top - surface) < 2.01 * double(options.edge) || top > surface,
                     qPrintable(QString("%1 against %2").arg(top).arg(surface)));
            ++compared;
        }
        QVERIFY(compared > 50);
        QVERIFY(!lamps_of(made->world).empty());
        QVERIFY(lamps_of(make_blocks(scene, {.edge = 0.2f, .lamps = false})->world).empty());
        // What is too fine is said, with an edge that fits.
        const auto fine = make_blocks(scene, {.edge = 0.001f});
        QVERIFY(!fine && fine.error().remedy.find("Take cells of") != std::string::npos);
        const auto stopped = make_blocks(scene, options, [](double) { return false; });
        QVERIFY(!stopped);
        // It can be written, and read again.
        const auto again = unpacked(packed(*made), "x.blocks", 64 << 20);
        QVERIFY(again.has_value() && again->world == made->world);
    }

    void slices_become_layers() {
        QTemporaryDir folder;
        std::mt19937 r(8);
        std::vector<ByteImage> slices;
        const std::array<std::array<std::uint8_t, 4>, 4> colors = {
            {{0, 0, 0, 0}, {200, 40, 30, 255}, {20, 90, 220, 255}, {90, 200, 210, 120}}};
        for (int y = 0; y < 12; ++y) {
            ByteImage s{9, 7, {}};
            for (int i = 0; i < 63; ++i)
                for (const std::uint8_t b : colors[r() % 4])
                    s.rgba.push_back(b);
            QVERIFY(write_png(folder.filePath(QString("layer %1.png").arg(y + 1)).toStdString(), s).has_value());
            slices.push_back(s);
        }
        const auto made = read_slices(folder.path().toStdString(), 0.5f);
        QVERIFY2(made.has_value(), made ? "" : to_text(made.error()).c_str());
        QVERIFY(made->world.still.size() == glm::ivec3(9, 12, 7)); // "layer 2" comes before "layer 10"
        QCOMPARE(made->world.palette.size(), std::size_t(4));
        for (int y = 0; y < 12; ++y)
            for (int z = 0; z < 7; ++z)
                for (int x = 0; x < 9; ++x) {
                    const std::uint8_t* p = &slices[std::size_t(y)].rgba[std::size_t(4 * (z * 9 + x))];
                    const blocks::Material& m = made->world.material(made->world.still.at({x, y, z}));
                    QCOMPARE(made->world.still.at({x, y, z}) == 0, p[3] == 0);
                    if (p[3] == 0) continue;
                    QCOMPARE(m.stops_light(), p[3] == 255);
                    for (int c = 0; c < 3; ++c)
                        QVERIFY(std::abs(255 * srgb_encode(double(m.color[c])) - p[c]) < 0.6);
                }
        QVERIFY(
            write_png(folder.filePath("layer 5.png").toStdString(), ByteImage{2, 2, std::vector<std::uint8_t>(16, 9)})
                .has_value());
        const auto uneven = read_slices(folder.path().toStdString(), 0.5f);
        QVERIFY(!uneven && QString::fromStdString(uneven.error().where).endsWith("layer 5.png"));
        QVERIFY(!read_slices("/nowhere/at all", 0.5f));
        QTemporaryDir empty;
        QVERIFY(!read_slices(empty.path().toStdString(), 0.5f));
    }

    /// Colours that are alike are joined, no more than must be; kinds stay apart.
    void colours_are_joined_to_a_palette() {
        std::mt19937 r(2);
        std::uniform_real_distribution<float> u(0, 1);
        std::vector<ColorSample> samples;
        for (int i = 0; i < 3000; ++i)
            samples.push_back({{u(r), u(r), u(r)}, int(r() % 3)});
        double last = 1e9;
        for (const int most : {3, 16, 64, 200}) {
            const std::vector<int> group = alike_colors(samples, most);
            const int groups = *std::max_element(group.begin(), group.end()) + 1;
            QVERIFY(groups <= most && groups > most * 9 / 10);
            std::vector<glm::dvec4> mean(std::size_t(groups), glm::dvec4(0));
            std::vector<int> kind(std::size_t(groups), -1);
            for (std::size_t i = 0; i < samples.size(); ++i) {
                mean[std::size_t(group[i])] += glm::dvec4(glm::dvec3(samples[i].color), 1);
                int& k = kind[std::size_t(group[i])];
                QVERIFY(k < 0 || k == samples[i].kind);
                k = samples[i].kind;
            }
            double apart = 0;
            for (std::size_t i = 0; i < samples.size(); ++i) {
                const glm::dvec4& m = mean[std::size_t(group[i])];
                apart += glm::length(glm::dvec3(samples[i].color) - glm::dvec3(m) / m.w) / double(samples.size());
            }
            QVERIFY(apart < last);
            last = apart;
        }
        QVERIFY(last < 0.2);
        // Few colours keep theirs.
        QCOMPARE(alike_colors({{{1, 0, 0}}, {{0, 1, 0}}, {{1, 0, 0}}}, 200), (std::vector<int>{1, 0, 1}));
        QVERIFY(alike_colors({}, 5).empty());
    }

    /// The drawn faces as meshes are met where rays through the cells meet them.
    void drawn_faces_are_where_cells_are() {
        const BlockStage s = block_stage();
        const DrawnScene drawn = drawn_scene(s.scene, s.setup, s.view);
        const RayScene rays(drawn.scene);
        const CellTree& tree = trees(s.scene.blocks)->front();
        std::mt19937 r(12);
        std::uniform_real_distribution<double> u(-1, 1);
        const double edge = double(s.scene.blocks->edge);
        int met = 0;
        for (int n = 0; n < 16000; ++n) {
            const glm::dvec3 from = glm::dvec3(70, 40, 50) * (0.5 + 0.5 * glm::dvec3(u(r), u(r), u(r)));
            if (s.scene.blocks->still.at(glm::ivec3(glm::floor(from))) != 0) continue;
            const glm::dvec3 d = glm::normalize(glm::dvec3(u(r), u(r), u(r)));
            const RayHit hit = rays.nearest({glm::vec3(from * edge), glm::vec3(d)});
            const bool ofProp =
                hit.object >= 0 && drawn.scene.asset->objectNames[std::size_t(hit.object)].name.starts_with("crate");
            if (ofProp) continue;
            const TreeHit cell = trace(tree, from, d, 1000);
            QCOMPARE(hit.object >= 0, cell.material != 0);
            if (hit.object < 0) continue;
            QVERIFY(std::abs(double(hit.distance) - cell.distance * edge) < 1e-3);
            QVERIFY(glm::dot(hit.normal, glm::vec3(Neighbours::directions[cell.face])) > 0.999f);
            ++met;
        }
        QVERIFY(met > 1000);
    }

    /// A lamp's radiance gives a face one cell away what the flood gives there.
    void lamps_give_what_floods_give_beside_them() {
        auto world = std::make_shared<World>();
        world->palette = block_palette();
        world->palette.push_back({.name = "plain lamp", .color = {1, 1, 1}, .light = {63, 63, 63}});
        world->palette.push_back({.name = "chalk", .color = {0.5f, 0.5f, 0.5f}, .roughness = 1});
        const auto lamp = std::uint8_t(world->palette.size() - 2), chalk = std::uint8_t(world->palette.size() - 1);
        world->still = Volume(glm::ivec3(9, 9, 9));
        world->still.set({4, 4, 4}, lamp);
        world->still.set({4, 2, 4}, chalk); // its upper face looks at the lamp's lower one
        BlockStage s = block_stage(64, 64);
        auto asset = std::make_shared<SceneAsset>(*s.scene.asset);
        asset->blocks = world;
        s.scene.asset = asset;
        s.scene.blocks = world;
        s.scene.lights.clear();
        (void)s.setup.set_text("blocks.light", "flood");
        (void)s.setup.set_text("blocks.top", "0,0,0");
        (void)s.setup.set_text("flood.smooth", "off");
        const float edge = world->edge;
        s.view.camera = {.name = "at the face",
                         .eye = edge * glm::vec3(1.2f, 3.9f, 4.5f),
                         .aim = edge * glm::vec3(4.5f, 3, 4.5f),
                         .fovY = 0.12f};
        const DrawnScene drawn = drawn_scene(s.scene, s.setup, s.view);
        truth::Options options;
        options.bounces = 0;
        options.skyAround = true;
        options.smooth = true;
        const truth::PathTracer tracer(drawn.scene, drawn.setup, s.view, options,
                                       std::make_shared<RayScene>(drawn.scene));
        // The mean over the face, by points of it.
        const BlockLight light(s.scene, s.setup, s.view);
        const FacePoint middle{glm::dvec3(edge) * glm::dvec3(4.5, 3, 4.5), 0, 2, chalk};
        const double flood = light.at(middle).lamps.y;
        double sum = 0;
        int count = 0;
        std::uint64_t cast = 0;
        for (int y = 24; y < 40; ++y)
            for (int x = 24; x < 40; ++x)
                for (std::uint32_t n = 0; n < 64; ++n) {
                    sum += tracer.sample(x, y, n, cast).y;
                    ++count;
                }
        const double truly = sum / count; // near the face's middle, where the form factor is larger than on average
        QVERIFY2(truly > 0.9 * flood && truly < 1.6 * flood,
                 qPrintable(QString("%1 against %2").arg(truly).arg(flood)));
    }

    /// Alone in a hall the way that cells know is the lamp's; of two lamps, both are nearer to it than one.
    void directions_are_held_against_every_lamp() {
        auto world = std::make_shared<World>();
        world->palette = block_palette();
        world->palette.push_back({.name = "steel", .color = {0.7f, 0.7f, 0.75f}, .roughness = 0.3f, .metallic = 1});
        world->still = Volume(glm::ivec3(30, 14, 30));
        world->still.fill(glm::ivec3(0), world->still.size(), std::uint8_t(world->palette.size() - 1));
        world->still.fill({2, 2, 2}, {28, 12, 28}, 0);
        world->still.set({8, 6, 9}, 3);
        BlockStage s = block_stage(48, 32);
        const auto take = [&] {
            auto asset = std::make_shared<SceneAsset>(*s.scene.asset);
            asset->blocks = world;
            s.scene.asset = asset;
            s.scene.blocks = world;
        };
        take();
        const float edge = world->edge;
        s.view.camera = {.name = "inside", .eye = edge * glm::vec3(24, 8, 24), .aim = edge * glm::vec3(8, 3, 9)};
        (void)s.setup.set_text("blocks.light", "flood-origin");
        const DirectionAudit one = audit_directions(s.scene, s.setup, s.view);
        QVERIFY(one.cells > 1000 && one.hidden == 0);
        QVERIFY2(one.one < 1e-4, qPrintable(QString::number(one.one)));
        QCOMPARE(one.seen, 48 * 32);
        QCOMPARE(one.two, 0.0);
        // What is mirrored is near it, too: levels go by steps, lamps by distance.
        QVERIFY(one.meanApart < 1.0);
        auto more = std::make_shared<World>(*world);
        more->still.set({20, 6, 20}, 3);
        world = more;
        take();
        (void)s.setup.set_text("flood.mix", "on");
        const DirectionAudit two = audit_directions(s.scene, s.setup, s.view);
        QVERIFY2(two.one > 2 && two.two < 0.6 * two.one, qPrintable(QString("%1 %2").arg(two.one).arg(two.two)));
        QVERIFY(two.oneP95 > two.one && two.twoP95 >= two.two);
    }
};

MIROLUX_TEST(make_blocks_test)
#include "make_blocks_test.moc"
