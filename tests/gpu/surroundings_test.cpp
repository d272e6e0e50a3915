#include "core/ambient/environment.h"
#include "core/ambient/split_sum.h"
#include "core/image/image_io.h"
#include "session_fixture.h"
#include <QTemporaryDir>
#include <random>
#include <thread>

using namespace mirolux;
using namespace mirolux::test;

namespace {

using Values = std::vector<std::pair<std::string, std::string>>;

Scene quad(const Material& material) {
    SceneAsset asset;
    asset.materials.push_back(material);
    add_quad(asset, 0, {-1, -1, 0}, {2, 0, 0}, {0, 2, 0});
    Scene scene;
    scene.asset = finished(std::move(asset));
    return scene;
}

/// A quad that faces `n`, and the view along -n at its middle.
struct Facing {
    Scene scene;
    View view;
};
Facing facing(const Material& material, const glm::vec3& n) {
    const glm::vec3 side =
                        glm::normalize(glm::cross(std::abs(n.y) < 0.9f ? glm::vec3(0, 1, 0) : glm::vec3(1, 0, 0), n)),
                    up = glm::cross(n, side);
    SceneAsset asset;
    asset.materials.push_back(material);
    add_quad(asset, 0, -side - up, 2.0f * side, 2.0f * up);
    Scene scene;
    scene.asset = finished(std::move(asset));
    return {std::move(scene), view_from(2.0f * n, {0, 0, 0}, 3, 3)};
}

Values lit_by(const std::string& file, const Values& more = {}) {
    Values out = {{"ambient.kind", "environment"},
                  {"environment.source", "file"},
                  {"environment.file", file},
                  {"path.targetFormat", "rgba32f"},
                  {"shading.model", "ggx"}};
    out.insert(out.end(), more.begin(), more.end());
    return out;
}

std::vector<glm::dvec3> directions(int count) {
    std::mt19937 random(21);
    std::normal_distribution<double> g;
    std::vector<glm::dvec3> out;
    for (int i = 0; i < count; ++i)
        out.push_back(glm::normalize(glm::dvec3(g(random), g(random), g(random))));
    return out;
}

std::string demo_file(const char* name) {
    return QFileInfo(MIROLUX_DEMO).dir().filePath(name).toStdString();
}

glm::dvec3 full_irradiance(const FloatImage& image, const glm::dvec3& n) {
    glm::dvec3 sum(0.0);
    const double pi = glm::pi<double>();
    for (int y = 0; y < image.height; ++y)
        for (int x = 0; x < image.width; ++x) {
            const double polar = pi * (y + 0.5) / image.height, azimuth = 2 * pi * ((x + 0.5) / image.width - 0.5),
                         solid = (std::cos(pi * y / image.height) - std::cos(pi * (y + 1) / image.height)) * 2 * pi /
                                 image.width;
            const glm::dvec3 d(std::sin(polar) * std::sin(azimuth), std::cos(polar),
                               -std::sin(polar) * std::cos(azimuth));
            const float* p = image.pixel(x, y);
            sum += glm::dvec3(p[0], p[1], p[2]) * (solid * std::max(0.0, glm::dot(d, n)));
        }
    return sum / pi;
}

template <class Body>
void on_two_cores(int count, const Body& body) {
    const auto every_second = [&](int first) {
        for (int i = first; i < count; i += 2)
            body(i);
    };
    std::thread other([&] { every_second(1); });
    every_second(0);
    other.join();
}

double largest(const glm::dvec3& v) {
    return std::max({v.x, v.y, v.z});
}

} // namespace

/// Surroundings as light on the device.
class surroundings_test : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string even_; // a picture of 1 all around

    int gathered(const Scene& scene, const Setup& setup, const View& view) {
        RenderOptions o;
        o.picture = false;
        o.count = true;
        const auto r = session().render(scene, setup, view, o);
        if (!r) qFatal("%s", to_text(r.error()).c_str());
        for (const PassRecord& p : r->passes)
            if (p.name == "lobes") return static_cast<int>(p.work.at("environmentSamples"));
        return -1;
    }

private slots:
    void initTestCase() {
        even_ = folder_.filePath("even.exr").toStdString();
        QVERIFY(write_exr(even_, {64, 32, 4, std::vector<float>(64 * 32 * 4, 1.0f)}).has_value());
    }

    void the_furnace_gives_what_the_surface_sends_back() {
        for (const char* diffuse : {"harmonics", "cube"}) {
            const Setup lambert =
                setup_with(lit_by(even_, {{"shading.model", "lambert"}, {"environment.diffuse", diffuse}}));
            const Facing f = facing(plain_material({0.73f, 0.4f, 0.1f}, 0, 0.5f), glm::normalize(glm::vec3(1, 2, 3)));
            const FloatImage got = hdr(f.scene, lambert, f.view);
            for (int c = 0; c < 3; ++c)
                QVERIFY2(std::abs(got.pixel(1, 1)[c] / glm::vec3(0.73f, 0.4f, 0.1f)[c] - 1) < 0.005f,
                         qPrintable(QString::number(got.pixel(1, 1)[c])));
        }
        for (const bool compensated : {true, false})
            for (const float metallic : {0.0f, 1.0f})
                for (const float r : {0.045f, 0.1f, 0.2f, 0.35f, 0.5f, 0.7f, 0.85f, 1.0f}) {
                    const Setup s =
                        setup_with(lit_by(even_, {{"environment.compensated", compensated ? "on" : "off"}}));
                    const Scene scene = quad(plain_material(glm::vec3(1), metallic, r));
                    // From straight ahead to grazing.
                    for (const float angle : {0.0f, 0.8f, 1.35f}) {
                        const View view = view_from({2 * std::sin(angle), 0, 2 * std::cos(angle)}, {0, 0, 0}, 3, 3);
                        const double got = hdr(scene, s, view).pixel(1, 1)[1], c = std::cos(double(angle));
                        const SplitSum sums = split_sum(c, r, 4096);
                        const double once = metallic > 0 ? sums.scale + sums.bias
                                                         : 0.04 * sums.scale + sums.bias + 0.96 * (1 - sums.grazing);
                        QVERIFY2(std::abs(got - (compensated ? 1.0 : once)) < (compensated ? 0.02 : 0.012),
                                 qPrintable(QString("roughness %1, metallic %2, angle %3: %4, wanted %5")
                                                .arg(r)
                                                .arg(metallic)
                                                .arg(angle)
                                                .arg(got)
                                                .arg(compensated ? 1.0 : once)));
                    }
                }
    }

    void pictures_light_as_their_full_sums_data() {
        QTest::addColumn<QString>("file");
        QTest::newRow("clear day") << "clear-day.hdr";
        QTest::newRow("overcast") << "overcast.hdr";
        QTest::newRow("lamp room") << "lamp-room.hdr";
    }
    void pictures_light_as_their_full_sums() {
        QFETCH(QString, file);
        const std::string path = demo_file(qPrintable(file));
        const auto picture = sky_picture(path);
        QVERIFY2(picture.has_value(), picture ? "" : to_text(picture.error()).c_str());
        const std::vector<glm::dvec3> all = directions(200);
        std::vector<glm::dvec3> wanted(all.size());
        on_two_cores(200, [&](int i) {
            wanted[static_cast<std::size_t>(i)] = full_irradiance((*picture)->image, all[static_cast<std::size_t>(i)]);
        });
        SkySettings sky;
        sky.kind = SkyKind::file;
        sky.picture = *picture;
        const SkyModel model(sky);
        double mean = 0;
        for (const glm::dvec3& w : wanted)
            mean += largest(w) / 200;
        for (const char* diffuse : {"harmonics", "cube"}) {
            const Setup s = setup_with(lit_by(path, {{"shading.model", "lambert"}, {"environment.diffuse", diffuse}}));
            double worst = 0, sum = 0, own = 0;
            for (std::size_t i = 0; i < all.size(); ++i) {
                const Facing f = facing(plain_material(glm::vec3(1), 0, 1), glm::vec3(all[i]));
                const FloatImage picture = hdr(f.scene, s, f.view);
                const glm::dvec3 got(picture.pixel(1, 1)[0], picture.pixel(1, 1)[1], picture.pixel(1, 1)[2]),
                    projected = glm::max(harmonic_radiance(model.harmonics(), all[i]), glm::dvec3(0.0));
                const double off = largest(glm::abs(got - wanted[i])) / largest(wanted[i]);
                worst = std::max(worst, off);
                sum += off / 200;
                own = std::max(own, largest(glm::abs(got - projected)) / mean);
            }
            qInfo("%s, %s: mean %.2f %%, worst %.1f %% from the full sum", qPrintable(file), diffuse, 100 * sum,
                  100 * worst);
            if (diffuse[0] == 'h')
                QVERIFY2(own < 0.005, qPrintable(QString::number(own)));
            else
                QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
        }
        for (const double roughness : {0.1, 0.2, 0.35, 0.5, 0.75, 1.0}) {
            const Setup s = setup_with(lit_by(path, {{"environment.compensated", "off"}}));
            const SplitSum ahead = split_sum(1, roughness, 4096);
            std::vector<glm::dvec3> lobes(all.size());
            on_two_cores(200, [&](int i) {
                lobes[static_cast<std::size_t>(i)] = lobe_radiance(model, roughness, all[static_cast<std::size_t>(i)]);
            });
            double worst = 0, sum = 0;
            for (std::size_t i = 0; i < all.size(); ++i) {
                const Facing f = facing(plain_material(glm::vec3(1), 1, float(roughness)), glm::vec3(all[i]));
                const FloatImage picture = hdr(f.scene, s, f.view);
                const glm::dvec3 got =
                    glm::dvec3(picture.pixel(1, 1)[0], picture.pixel(1, 1)[1], picture.pixel(1, 1)[2]) /
                    (ahead.scale + ahead.bias);
                const double off = largest(glm::abs(got - lobes[i])) / largest(lobes[i]);
                worst = std::max(worst, off);
                sum += off / 200;
            }
            qInfo("%s, roughness %.2f: mean %.2f %%, worst %.1f %% from the lobe's sum", qPrintable(file), roughness,
                  100 * sum, 100 * worst);
            QVERIFY2(worst < 0.08, qPrintable(QString::number(worst)));
        }
    }

    void turned_to_the_right_as_seen() {
        // A red spot at the picture's middle: -Z; its left quarter -X.
        FloatImage image{64, 32, 4, std::vector<float>(64 * 32 * 4, 0.0f)};
        for (int y = 12; y < 20; ++y)
            for (int x = 0; x < 64; ++x) {
                float* p = &image.data[(std::size_t(y) * 64 + x) * 4];
                if (x >= 28 && x < 36) p[0] = 50;
                if (x >= 12 && x < 20) p[1] = 50;
            }
        const std::string path = folder_.filePath("spots.exr").toStdString();
        QVERIFY(write_exr(path, image).has_value());
        const auto seen = [&](const char* turn, const glm::vec3& n, const char* diffuse, float metallic) {
            const Facing f = facing(plain_material(glm::vec3(1), metallic, 0.3f), n);
            const FloatImage got =
                hdr(f.scene, setup_with(lit_by(path, {{"environment.turn", turn}, {"environment.diffuse", diffuse}})),
                    f.view);
            return glm::vec2(got.pixel(1, 1)[0], got.pixel(1, 1)[1]);
        };
        for (const char* diffuse : {"harmonics", "cube"})
            for (const float metallic : {0.0f, 1.0f}) {
                const glm::vec2 ahead = seen("0", {0, 0, -1}, diffuse, metallic),
                                left = seen("0", {-1, 0, 0}, diffuse, metallic);
                QVERIFY(ahead.x > 4 * ahead.y && left.y > 4 * left.x);
                // By 90 degrees: what was ahead is to the right, what was to the left is ahead.
                const glm::vec2 right = seen("90", {1, 0, 0}, diffuse, metallic),
                                now = seen("90", {0, 0, -1}, diffuse, metallic);
                QVERIFY2(std::abs(right.x / ahead.x - 1) < 0.02 && std::abs(now.y / left.y - 1) < 0.02,
                         qPrintable(QString("%1 %2, %3 %4").arg(right.x).arg(ahead.x).arg(now.y).arg(left.y)));
            }
    }

    void every_path_shows_the_same_picture() {
        const Scene scene = random_scene(5, 8);
        const View view = view_from({9, 5, 13}, {0, 3, 0}, 96, 54);
        const Values values =
            lit_by(demo_file("lamp-room.hdr"),
                   {{"path.maxLights", "64"}, {"environment.diffuse", "cube"}, {"gbuffer.packing", "full"}});
        FloatImage first;
        for (const char* path : paths) {
            Values v = values;
            v.push_back({"path.kind", path});
            const FloatImage got = hdr(scene, setup_with(v), view);
            if (first.data.empty()) first = got;
            QVERIFY2(largest_relative_difference(first, got, 0.5) < 0.02, path);
        }
    }

    void accounts_and_layers_hold() {
        const Scene scene = random_scene(6, 12);
        const View view = view_from({9, 5, 13}, {0, 3, 0}, 96, 54);
        const Setup s = setup_with(lit_by(demo_file("clear-day.hdr")));
        for (const glm::ivec2 pixel : {glm::ivec2(48, 30), {20, 44}, {70, 20}})
            QVERIFY(account_at(scene, s, view, pixel).difference < 0.02);
        // A mirror's pixel: the surroundings and nothing else.
        const Scene mirror = quad(plain_material(glm::vec3(1), 1, 0.1f));
        const PixelAccount account = account_at(mirror, s, view_from({0.4f, 0.3f, 2}, {0, 0, 0}, 9, 9), {4, 4});
        QCOMPARE(account.surfaces.size(), std::size_t(1));
        const SurfaceSample& sample = account.surfaces.front().sample;
        QVERIFY(sample.mirrored.g > 0.97f * sample.ambient.g && sample.mirrored.g > 0);
        QVERIFY2(account.reason.find("mirrored surroundings") != std::string::npos, account.reason.c_str());
        QVERIFY(layers_miss_the_picture(scene, s, view) < 0.01);
        // What is mirrored is a part of ambient, and more than nothing.
        const FloatImage all = hdr(scene, s, view, "ambient"), part = hdr(scene, s, view, "environment");
        double sum = 0;
        for (std::size_t i = 0; i < all.data.size(); ++i)
            if (i % 4 != 3) {
                QVERIFY(part.data[i] <= all.data[i] * 1.001f + 0.01f);
                sum += part.data[i];
            }
        QVERIFY(sum > 0);
    }

    /// In slices the light is the same in the end, and told of until then; light that was there before comes back
    /// without being gathered.
    void it_is_gathered_in_slices_and_kept() {
        const Scene scene = quad(plain_material(glm::vec3(0.8f), 1, 0.3f));
        const View view = view_from({0.4f, 0.3f, 2}, {0, 0, 0}, 48, 27);
        const auto under = [&](const char* file, const Values& more = {}) {
            Values values = lit_by(demo_file(file), {{"environment.size", "32"}, {"environment.samples", "96"}});
            values.insert(values.end(), more.begin(), more.end());
            return setup_with(values);
        };
        RenderOptions o;
        o.picture = false;
        o.floatLayers = {"final"};
        o.gatherMs = 1e-3;
        double before = -1;
        int frames = 0;
        FloatImage sliced;
        for (; frames < 1000; ++frames) {
            const auto r = session().render(scene, under("lamp-room.hdr"), view, o);
            if (!r) qFatal("%s", to_text(r.error()).c_str());
            sliced = r->floats.at("final");
            const auto told = r->told.find("gathering");
            if (told == r->told.end()) break;
            QVERIFY(told->second.size() == 2 && told->second[0] > before && told->second[0] < told->second[1]);
            before = told->second[0];
        }
        QVERIFY2(frames > 5 && frames < 1000, qPrintable(QString::number(frames)));
        const FloatImage whole = hdr(scene, under("lamp-room.hdr", {{"environment.update", "always"}}), view);
        QVERIFY(sliced.data == whole.data);
        QVERIFY(hdr(scene, under("overcast.hdr"), view).data != whole.data);
        o.gatherMs = 0;
        o.fencedSamples = 0;
        const auto again = session().render(scene, under("lamp-room.hdr"), view, o);
        QVERIFY(again && again->floats.at("final").data == whole.data);
        for (const PassRecord& p : again->passes)
            if (p.name == "lobes") QCOMPARE(p.work.at("draws"), std::uint64_t(0));
    }

    void it_is_gathered_when_it_changed_and_not_again() {
        const Scene scene = quad(plain_material(glm::vec3(0.5f), 1, 0.4f));
        const View view = view_from({0, 0, 2}, {0, 0, 0}, 16, 16);
        const std::string day = demo_file("clear-day.hdr");
        const auto with = [&](const Values& more) { return setup_with(lit_by(day, more)); };
        (void)hdr(scene, with({{"environment.size", "32"}}), view);
        QCOMPARE(gathered(scene, with({{"environment.size", "32"}}), view), 0);
        QCOMPARE(gathered(scene,
                          with({{"environment.size", "32"}, {"environment.turn", "40"}, {"environment.strength", "7"}}),
                          view),
                 0);
        const LobeLevels levels{32, 16};
        // Every texel of every level, each from its lobe's samples; some of the widest lobe's lie under its horizon.
        const int always = gathered(
            scene, with({{"environment.size", "32"}, {"environment.update", "always"}, {"environment.samples", "16"}}),
            view);
        const CubeOfPicture cube = lower_bright(cube_of(**sky_picture(day), 32));
        int wanted = 0;
        for (int level = 1; level < levels.count(); ++level) {
            const int edge = 32 >> (level / LobeLevels::cubes);
            wanted += 6 * edge * edge *
                      int(lobe_samples(levels.roughness(level), samples_of(level, 16)).size() +
                          (level / LobeLevels::cubes < 2 ? cube.fine.size() : cube.coarse.size()));
        }
        QCOMPARE(always, wanted);
        // Another sky is gathered anew, and shown.
        const auto sky = [&](const char* elevation) {
            return setup_with({{"ambient.kind", "environment"},
                               {"sky.kind", "atmosphere"},
                               {"sun.elevation", elevation},
                               {"path.targetFormat", "rgba32f"}});
        };
        const float noon = hdr(scene, sky("60"), view).pixel(8, 8)[2], dusk = hdr(scene, sky("1"), view).pixel(8, 8)[2];
        QVERIFY2(noon > 3 * dusk && dusk > 0, qPrintable(QString("%1 %2").arg(noon).arg(dusk)));
    }

    void the_skys_picture_as_surroundings_is_as_strong_as_asked() {
        const Scene scene = quad(plain_material(glm::vec3(1), 1, 0.3f));
        const View view = view_from({0, 0, 2}, {0, 0, 0}, 9, 9);
        for (const char* diffuse : {"harmonics", "cube"}) {
            const auto lit = [&](const char* strength) {
                return hdr(scene,
                           setup_with({{"ambient.kind", "environment"},
                                       {"sky.kind", "file"},
                                       {"sky.file", even_},
                                       {"sky.strength", "3"},
                                       {"environment.strength", strength},
                                       {"environment.diffuse", diffuse},
                                       {"path.targetFormat", "rgba32f"}}),
                           view)
                    .pixel(4, 4)[1];
            };
            QVERIFY2(std::abs(lit("1") - 3) < 0.06f && std::abs(lit("2") - 6) < 0.12f,
                     qPrintable(QString("%1 %2").arg(lit("1")).arg(lit("2"))));
        }
    }

    /// The sky as surroundings: a mirror shows it as it stands, wherever the sky is made of.
    void a_mirror_shows_the_sky() {
        for (const char* kind : {"colours", "fitted", "atmosphere"}) {
            const Setup s = setup_with({{"ambient.kind", "environment"},
                                        {"sky.kind", kind},
                                        {"sun.elevation", "30"},
                                        {"sun.azimuth", "200"},
                                        {"environment.compensated", "off"},
                                        {"environment.strength", "1.5"},
                                        {"path.targetFormat", "rgba32f"}});
            double off = 0;
            for (const glm::dvec3& d : directions(12)) {
                if (d.y < 0.1) continue;
                Facing f = facing(plain_material(glm::vec3(1), 1, 0.0f), glm::vec3(d));
                f.scene.sky = {{0.2f, 0.3f, 0.4f}, {0.5f, 0.6f, 0.9f}};
                const SkyModel model(sky_settings(f.scene, s, f.view));
                const FloatImage got = hdr(f.scene, s, f.view);
                const glm::dvec3 wanted = model.radiance(d) * 1.5;
                off = std::max(
                    off,
                    largest(glm::abs(glm::dvec3(got.pixel(1, 1)[0], got.pixel(1, 1)[1], got.pixel(1, 1)[2]) - wanted)) /
                        largest(wanted));
            }
            QVERIFY2(off < 0.06, qPrintable(QString("%1: %2").arg(kind).arg(off)));
        }
    }
};

MIROLUX_TEST(surroundings_test)
#include "surroundings_test.moc"
