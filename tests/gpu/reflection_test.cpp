#include "core/ambient/reflection.h"
#include "session_fixture.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

Setup reflecting(const Values& more = {}) {
    Values all = {{"ambient.kind", "environment"}, {"environment.size", "32"},        {"reflection.kind", "screen"},
                  {"reflection.stretch", "0"},     {"reflection.byRoughness", "off"}, {"reflection.edge", "0"},
                  {"reflection.grow", "0"},        {"path.targetFormat", "rgba32f"}};
    for (const auto& [key, value] : more) {
        std::erase_if(all, [&](const auto& v) { return v.first == key; });
        all.emplace_back(key, value);
    }
    return setup_with(all);
}

Material glowing(glm::vec3 emissive) {
    Material m = plain_material(glm::vec3(0), 0, 1);
    m.emissive = emissive;
    return m;
}

/// A mirror of floor before a glowing wall of four colours, 2 x 2 fields of 2 m by 1 m.
Scene mirror_floor(float roughness = 0) {
    SceneAsset a;
    a.materials = {plain_material(glm::vec3(1), 1, roughness), glowing({4, 0, 0}), glowing({0, 4, 0}),
                   glowing({0, 0, 4}), glowing({2, 2, 2})};
    add_quad(a, 0, {-6, 0, 6}, {12, 0, 0}, {0, 0, -9});
    for (int i = 0; i < 4; ++i)
        add_quad(a, 1 + i, {i % 2 ? 0.0f : -2.0f, i / 2 ? 1.0f : 0.0f, -3}, {2, 0, 0}, {0, 1, 0});
    Scene scene;
    scene.asset = finished(std::move(a));
    return scene;
}
View before_the_wall(int width = 161, int height = 121) {
    return view_from({0, 1.6f, 4}, {0, 0.6f, -3}, width, height);
}

FloatImage hits_of(const Scene& scene, const Setup& setup, const View& view) {
    RenderOptions o;
    o.picture = false;
    o.fencedSamples = 0;
    o.targets = {{.target = reflection_hits_resource}};
    auto r = session().render(scene, setup, view, o);
    if (!r) qFatal("%s", to_text(r.error()).c_str());
    return std::move(r->targets.front());
}

ReflectionErrors audit(const Scene& scene, const Setup& setup, const View& view, int every = 1) {
    const RayScene rays(scene);
    return audit_reflections(setup, view, rays, hits_of(scene, setup, view), hdr(scene, setup, view, "depth"),
                             hdr(scene, setup, view, "normal"), every);
}

} // namespace

class reflection_test : public QObject {
    Q_OBJECT

private slots:
    /// Where a mirrored ray meets the wall is known in closed form: the floor shows that field's colour.
    void a_mirror_shows_what_stands_before_it() {
        const Scene scene = mirror_floor();
        const View view = before_the_wall();
        for (const char* trace : {"linear", "hierarchical"}) {
            const FloatImage picture =
                hdr(scene, reflecting({{"reflection.trace", trace}, {"reflection.steps", "256"}}), view);
            const glm::dmat4 back = glm::inverse(glm::dmat4(projection_matrix(view.camera, aspect_of(view))) *
                                                 glm::dmat4(view_matrix(view.camera)));
            int asked = 0, right = 0;
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    const glm::dvec4 p =
                        back * glm::dvec4(2 * (x + 0.5) / view.width - 1, 1 - 2 * (y + 0.5) / view.height, 0.5, 1);
                    const glm::dvec3 eye(view.camera.eye), to = glm::normalize(glm::dvec3(p) / p.w - eye);
                    if (to.y >= 0) continue;
                    const glm::dvec3 floor = eye - to * (eye.y / to.y), mirrored(to.x, -to.y, to.z);
                    if (floor.z < -2.9 || floor.z > 5.9 || std::abs(floor.x) > 5.9) continue;
                    const glm::dvec3 wall = floor + mirrored * ((-3 - floor.z) / mirrored.z);
                    const double border = 0.04 + 0.02 * glm::distance(wall, floor); // to the fields' edges
                    const auto far_from = [&](double v, double line) { return std::abs(v - line) > border; };
                    if (!(far_from(wall.x, -2) && far_from(wall.x, 0) && far_from(wall.x, 2) && far_from(wall.y, 0) &&
                          far_from(wall.y, 1) && far_from(wall.y, 2)) ||
                        std::abs(wall.x) > 2 || wall.y > 2 || wall.y < 0)
                        continue;
                    const int field = (wall.x > 0 ? 1 : 0) + (wall.y > 1 ? 2 : 0);
                    const float* c = picture.pixel(x, y);
                    const glm::vec3 wanted[] = {{4, 0, 0}, {0, 4, 0}, {0, 0, 4}, {2, 2, 2}};
                    ++asked;
                    right += glm::length(glm::vec3(c[0], c[1], c[2]) - wanted[field]) < 0.4f;
                }
            qInfo("%s: %d of %d pixels show the field that is mirrored there", trace, right, asked);
            QVERIFY(asked > 1000 && right > 0.985 * asked);
        }
    }

    void answers_are_held_against_mirrored_rays() {
        const View view = before_the_wall();
        for (const char* trace : {"linear", "hierarchical"})
            for (const char* scale : {"full", "half"}) {
                const ReflectionErrors e =
                    audit(mirror_floor(), reflecting({{"reflection.trace", trace}, {"reflection.scale", scale}}), view);
                qInfo("%s %s: asked %zu, right %.3f, wrong %.3f, none %.3f, missed %zu of %zu shown", trace, scale,
                      e.asked, e.share(e.right), e.share(e.wrong), e.share(e.none), e.missed, e.shown);
                QVERIFY(e.asked > 500 && e.asked == e.right + e.wrong + e.none);
                QVERIFY(e.share(e.wrong) < 0.03);
                QVERIFY(double(e.missed) < 0.08 * double(e.shown));
            }
    }

    /// Each of the reasons for no answer comes where it must.
    void no_answer_says_why() {
        const View view = before_the_wall();
        const auto counts = [&](const Scene& scene, const Setup& setup, const View& v) {
            std::map<int, int> out;
            const FloatImage hits = hits_of(scene, setup, v);
            for (int i = 0; i < hits.width * hits.height; ++i)
                ++out[int(std::lround(hits.data[std::size_t(i) * 4 + 3]))];
            return out;
        };
        auto front = counts(mirror_floor(), reflecting(), view);
        QVERIFY(front[1] > 500 && front[0] > 500); // hits, and what does not mirror
        QVERIFY(front[int(ScreenAnswer::left)] + front[int(ScreenAnswer::tooFar)] > 100); // beside the wall: the sky
        auto near = counts(mirror_floor(), reflecting({{"reflection.longest", "0.5"}}), view);
        QVERIFY(near[1] < front[1] / 2 && near[int(ScreenAnswer::tooFar)] > 500);
        // Seen from above, rays go up and out or past the eye.
        auto above = counts(mirror_floor(), reflecting(), view_from({0, 5, 2}, {0, 0, 1.9f}, 81, 61));
        QCOMPARE(above[1], 0);
        // A board that hides the wall's foot from the eye but not from the floor.
        SceneAsset a = *mirror_floor().asset;
        a.materials.pop_back();
        add_quad(a, 4, {-2, 0.25f, -1}, {4, 0, 0}, {0, 0.3f, 0});
        Scene hidden;
        hidden.asset = finished(std::move(a));
        auto behind = counts(hidden, reflecting({{"reflection.thickness", "0.05"}}), view);
        QVERIFY(behind[int(ScreenAnswer::hidden)] > 20);
        // The quay has them all but the rays that come back past the eye, which leave the picture first.
        const Demo d = demo();
        auto quay = counts(d.scene, reflecting(), d.view);
        for (const ScreenAnswer a :
             {ScreenAnswer::hit, ScreenAnswer::left, ScreenAnswer::hidden, ScreenAnswer::back, ScreenAnswer::tooFar})
            QVERIFY2(quay[int(a)] > 10, word(a));
    }

    void all_paths_reflect_alike() {
        const Scene scene = random_scene(4, 6);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 96, 54);
        for (const char* occluded : {"none", "horizon"}) {
            const auto picture = [&](const std::string& path) {
                return hdr(scene,
                           reflecting({{"path.kind", path},
                                       {"path.maxLights", "64"},
                                       {"gbuffer.packing", "full"},
                                       {"reflection.roughest", "1"},
                                       {"occlusion.kind", occluded}}),
                           view);
            };
            const FloatImage first = picture("forward");
            for (const char* path : paths) {
                const FloatImage other = picture(path);
                double mean = 0, all = 0;
                for (std::size_t i = 0; i < first.data.size(); ++i) {
                    mean += std::abs(first.data[i] - other.data[i]);
                    all += first.data[i];
                }
                QVERIFY2(mean < 0.004 * all, qPrintable(QString("%1 %2: %3").arg(path, occluded).arg(mean / all)));
            }
        }
    }

    /// Layers add up, the account meets the picture and says what came of the ray; without an answer nothing changes.
    void parts_add_up_and_the_account_says_what_was_seen() {
        const Scene scene = mirror_floor(0.1f);
        const View view = before_the_wall();
        for (const char* path : {"forward", "deferred"}) {
            const Setup on = reflecting({{"path.kind", path}}),
                        off = reflecting({{"path.kind", path}, {"reflection.kind", "none"}});
            QVERIFY(layers_miss_the_picture(scene, on, view) < 0.02);
            const FloatImage hits = hits_of(scene, on, view), with = hdr(scene, on, view),
                             without = hdr(scene, off, view);
            int told = 0, same = 0;
            for (int y = 4; y < view.height; y += 9)
                for (int x = 4; x < view.width; x += 9) {
                    const int answer = int(std::lround(hits.pixel(x, y)[3]));
                    const PixelAccount a = account_at(scene, on, view, {x, y});
                    if (a.surfaces.empty()) continue;
                    const SurfaceSample& s = a.surfaces.front().sample;
                    QVERIFY2(a.difference < 0.02, qPrintable(QString("%1 at %2 %3").arg(a.difference).arg(x).arg(y)));
                    QCOMPARE(s.answer, answer);
                    QCOMPARE(glm::length(s.reflected) > 0, answer == 1);
                    told += answer == 1;
                    if (answer != 1) {
                        ++same;
                        for (int c = 0; c < 3; ++c)
                            QCOMPARE(with.pixel(x, y)[c], without.pixel(x, y)[c]);
                    }
                }
            QVERIFY(told > 10 && same > 10);
        }
    }

    void rays_and_hits_are_counted() {
        const Scene scene = mirror_floor();
        const View view = before_the_wall();
        RenderOptions o;
        o.picture = false;
        o.fencedSamples = 0;
        o.count = true;
        const auto r = session().render(scene, reflecting(), view, o);
        QVERIFY(r.has_value());
        for (const PassRecord& p : r->passes)
            if (p.name == "trace reflections") {
                const FloatImage hits = hits_of(scene, reflecting(), view);
                std::uint64_t asked = 0, hit = 0;
                for (int i = 0; i < hits.width * hits.height; ++i) {
                    asked += hits.data[std::size_t(i) * 4 + 3] != 0;
                    hit += hits.data[std::size_t(i) * 4 + 3] == 1;
                }
                QCOMPARE(p.work.at("reflectionRays"), asked);
                QCOMPARE(p.work.at("reflectionHits"), hit);
                QVERIFY(p.work.at("reflectionReads") > asked);
                return;
            }
        QFAIL("no pass traces");
    }

    /// A near mirror's edge before a far one: half size differs from full by more than a tenth within two pixels only.
    void half_size_has_no_halo_wider_than_two_pixels() {
        SceneAsset a; // all that is mirrored there glows alike
        a.materials = {plain_material(glm::vec3(1), 1, 0), glowing({4, 0, 0}), plain_material(glm::vec3(0.02f), 0, 1)};
        add_quad(a, 0, {-6, 0, 6}, {12, 0, 0}, {0, 0, -9});
        add_quad(a, 1, {-9, 0, -3}, {18, 0, 0}, {0, 9, 0});
        add_box(a, 2, {-0.4f, 0, 0.5f}, {0.5f, 1.1f, 0.2f}); // dull, and mirrors nothing
        Scene scene;
        scene.asset = finished(std::move(a));
        const View view = before_the_wall(241, 181);
        const Setup full = reflecting({{"reflection.steps", "512"}}),
                    half = reflecting({{"reflection.steps", "512"}, {"reflection.scale", "half"}});
        const FloatImage whole = hdr(scene, full, view, "reflection"), quarter = hdr(scene, half, view, "reflection"),
                         depth = hdr(scene, full, view, "depth");
        int edges = 0, widest = 0;
        for (int y = 60; y < 150; ++y)
            for (int x = 8; x < view.width - 8; ++x) {
                if (std::abs(depth.pixel(x, y)[0] - depth.pixel(x + 1, y)[0]) < 0.8f) continue;
                ++edges;
                for (const int side : {-1, 1})
                    for (int step = 0; step < 6; ++step) {
                        const int at = side < 0 ? x - step : x + 1 + step;
                        float apart = 0;
                        for (int c = 0; c < 3; ++c)
                            apart = std::max(apart, std::abs(whole.pixel(at, y)[c] - quarter.pixel(at, y)[c]));
                        if (apart <= 0.4f) break; // a tenth of what glows
                        widest = std::max(widest, step + 1);
                    }
            }
        qInfo("halo of half size at %d edges: %d pixels at most", edges, widest);
        QVERIFY(edges > 40 && widest <= 2);
    }

    void off_asks_for_nothing() {
        const Scene scene = mirror_floor();
        const View view = before_the_wall(32, 24);
        for (const auto& [key, value] :
             Values{{"reflection.kind", "none"}, {"environment.specular", "off"}, {"shading.model", "lambert"}}) {
            const FramePlan p = plan_frame(scene, reflecting({{key, value}}), view);
            QVERIFY2(!p.pass("reflect") && !p.pass("reflection mask") && !p.resource(mirror_share_resource),
                     key.c_str());
        }
        View eyes = view;
        eyes.stereo = Stereo::onePass;
        const FramePlan p = plan_frame(scene, reflecting({{"path.kind", "deferred"}}), eyes);
        QVERIFY(!p.pass("reflect") && !p.notes.empty());
    }
};

MIROLUX_TEST(reflection_test)
#include "reflection_test.moc"
