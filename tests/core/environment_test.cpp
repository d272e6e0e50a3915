#include "core/ambient/ambient_light.h"
#include "core/ambient/environment.h"
#include "core/ambient/split_sum.h"
#include "core/image/image_io.h"
#include "support/test_main.h"
#include <QTemporaryDir>
#include <QtTest>
#include <random>

using namespace mirolux;

namespace {

FloatImage seeded_picture(int width, unsigned seed) {
    FloatImage image{width, width / 2, 4, {}};
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> u(0, 1);
    for (int i = 0; i < width * width / 2; ++i) {
        const float bright = u(random) > 0.995f ? 300.0f : 1.0f;
        for (int c = 0; c < 3; ++c)
            image.data.push_back(bright * u(random));
        image.data.push_back(1);
    }
    return image;
}

SkyPicture picture_of(const FloatImage& image) {
    SkyPicture p;
    p.image = image;
    return p;
}

SkySettings pictured(const FloatImage& image, double turn = 0) {
    SkySettings s;
    s.kind = SkyKind::file;
    s.picture = std::make_shared<const SkyPicture>(picture_of(image));
    s.turn = turn;
    return s;
}

/// Calls with every texel's direction, radiance and solid angle.
template <class Each>
void every_texel(const SkySettings& sky, const Each& each) {
    const FloatImage& image = sky.picture->image;
    const double pi = glm::pi<double>();
    for (int y = 0; y < image.height; ++y)
        for (int x = 0; x < image.width; ++x) {
            const double polar = pi * (y + 0.5) / image.height,
                         azimuth = 2 * pi * ((x + 0.5) / image.width - 0.5) + sky.turn,
                         solid = (std::cos(pi * y / image.height) - std::cos(pi * (y + 1) / image.height)) * 2 * pi /
                                 image.width;
            const float* p = image.pixel(x, y);
            each(glm::dvec3(std::sin(polar) * std::sin(azimuth), std::cos(polar), -std::sin(polar) * std::cos(azimuth)),
                 glm::dvec3(p[0], p[1], p[2]), solid);
        }
}

glm::dvec3 full_irradiance(const SkySettings& sky, const glm::dvec3& n) {
    glm::dvec3 sum(0.0);
    every_texel(sky, [&](const glm::dvec3& d, const glm::dvec3& l, double solid) {
        sum += l * (solid * std::max(0.0, glm::dot(d, n)));
    });
    return sum / glm::pi<double>();
}

std::vector<glm::dvec3> directions(int count, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> g;
    std::vector<glm::dvec3> out;
    for (int i = 0; i < count; ++i)
        out.push_back(glm::normalize(glm::dvec3(g(random), g(random), g(random))));
    return out;
}

/// Albedo of both lobes toward a viewer, summed over the hemisphere by brute force.
glm::dvec2 albedo(const brdf::Surface& surface, double cosView, int rings) {
    const glm::dvec3 n(0, 0, 1), view(std::sqrt(1 - cosView * cosView), 0, cosView);
    glm::dvec2 sum(0.0);
    for (int i = 0; i < rings; ++i) {
        const double z2 = (i + 0.5) / rings, z = std::sqrt(z2), s = std::sqrt(1 - z2); // even in the cosine's measure
        for (int j = 0; j < 2 * rings; ++j) {
            const double turn = glm::pi<double>() * (j + 0.5) / (2 * rings);
            const brdf::Lobes lobes = brdf::evaluate(brdf::Model::ggx, surface, 0, true, n,
                                                     {s * std::cos(turn), s * std::sin(turn), z}, view);
            sum += glm::dvec2(lobes.diffuse.x, lobes.specular.x) * (glm::pi<double>() / (2.0 * rings * rings));
        }
    }
    return sum;
}

} // namespace

/// Surroundings as light, against sums over all directions.
class environment_test : public QObject {
    Q_OBJECT
private slots:
    void split_sums_are_the_lobes_albedo() {
        for (const double r : {0.25, 0.5, 0.8, 1.0})
            for (const double c : {0.15, 0.5, 0.95})
                for (const glm::dvec2 look : {glm::dvec2(1, 0), {0.5, 0}, {0.7, 1}}) { // base colour, metallic
                    const brdf::Surface surface{glm::dvec3(look.x), look.y, r};
                    const glm::dvec2 wanted = albedo(surface, c, 400);
                    const AmbientLeaves got = ambient_reflected(
                        brdf::Model::ggx, surface, false, split_sum_table().at(c, r), {glm::dvec3(1), glm::dvec3(1)});
                    QVERIFY2(std::abs(got.diffuse.x - wanted.x) < 0.004 && std::abs(got.specular.x - wanted.y) < 0.006,
                             qPrintable(QString("roughness %1, cosine %2: %3 %4 for %5 %6")
                                            .arg(r)
                                            .arg(c)
                                            .arg(got.diffuse.x)
                                            .arg(got.specular.x)
                                            .arg(wanted.x)
                                            .arg(wanted.y)));
                }
    }

    void the_furnace_loses_nothing_but_what_one_bounce_loses() {
        for (int i = 0; i <= 20; ++i) {
            const double r = 0.045 + i * (1 - 0.045) / 20;
            for (const double metallic : {0.0, 1.0})
                for (const double c : {0.1, 0.4, 0.7, 1.0}) {
                    const brdf::Surface white{glm::dvec3(1), metallic, r};
                    const SplitSum sums = split_sum_table().at(c, r);
                    const AmbientArrives one{glm::dvec3(1), glm::dvec3(1)};
                    const double whole = ambient_reflected(brdf::Model::ggx, white, true, sums, one).sum().x,
                                 once = ambient_reflected(brdf::Model::ggx, white, false, sums, one).sum().x;
                    QVERIFY2(std::abs(whole - 1) < 1e-6, qPrintable(QString::number(whole)));
                    if (metallic > 0) {
                        const double wanted = brdf::ggx_directional_albedo(c, r, 600);
                        if (r > 0.2) // narrower lobes slip through the grid of the sum
                            QVERIFY2(std::abs(once - wanted) < 0.01,
                                     qPrintable(QString("%1: %2, %3").arg(r).arg(once).arg(wanted)));
                    } else
                        QVERIFY(once > 0.5); // it may give more than it gets: Fresnel's two halves do not add up
                }
        }
    }

    void harmonics_are_the_projection_of_every_texel() {
        const FloatImage image = seeded_picture(64, 7);
        for (const double turn : {0.0, 0.7, -2.1, 3.0}) {
            const SkySettings s = pictured(image, turn);
            std::array<glm::dvec3, 9> wanted{};
            every_texel(s, [&](const glm::dvec3& n, const glm::dvec3& l, double solid) {
                const double y[9] = {0.28209479,
                                     0.48860251 * n.y,
                                     0.48860251 * n.z,
                                     0.48860251 * n.x,
                                     1.09254843 * n.x * n.y,
                                     1.09254843 * n.y * n.z,
                                     0.31539157 * (3 * n.z * n.z - 1),
                                     1.09254843 * n.x * n.z,
                                     0.54627422 * (n.x * n.x - n.y * n.y)};
                for (std::size_t i = 0; i < 9; ++i)
                    wanted[i] += l * (y[i] * solid * (i == 0 ? 1.0 : i < 4 ? 2.0 / 3 : 0.25));
            });
            const SkyModel model(s);
            for (std::size_t i = 0; i < 9; ++i)
                QVERIFY2(glm::length(model.harmonics()[i] - wanted[i]) < 1e-5 * glm::length(wanted[0]),
                         qPrintable(QString("%1 at turn %2").arg(i).arg(turn)));
        }
    }

    void the_cube_of_irradiance_is_the_full_sum() {
        SkySettings s = pictured(seeded_picture(128, 3), 0.9);
        s.strength = 2.5;
        const SkyModel model(s);
        const std::vector<LightPart> parts = model.parts();
        double worst = 0;
        for (const glm::dvec3& n : directions(60, 5)) {
            glm::dvec3 sum(0.0);
            for (const LightPart& p : parts)
                sum += p.toward(n) / glm::pi<double>();
            const glm::dvec3 wanted = full_irradiance(s, n) * s.strength;
            for (int c = 0; c < 3; ++c)
                worst = std::max(worst, std::abs(sum[c] - wanted[c]) / wanted[c]);
        }
        QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
        // The strongest apart: nothing is lost.
        const StrongParts apart = strong_parts(parts);
        QCOMPARE(apart.strong.size() + apart.rest.size(), parts.size());
        const auto size = [](const LightPart& p) {
            return glm::length(p.red) + glm::length(p.green) + glm::length(p.blue);
        };
        for (const LightPart& p : apart.rest)
            QVERIFY(size(p) < 2 * size(apart.strong.back()));
        // Its texels lie where the device looks.
        const FloatImage cube = irradiance_cube(parts, 4);
        for (int face = 0; face < 6; ++face) {
            const glm::dvec3 n = cube_direction(face, -0.75, 0.25), wanted = full_irradiance(s, n) * s.strength;
            QVERIFY(std::abs(cube.pixel(0, face * 4 + 2)[1] - wanted.y) < 0.01 * wanted.y);
        }
    }

    void a_cube_holds_the_pictures_light() {
        for (const int width : {64, 512}) {
            const SkySettings s = pictured(seeded_picture(width, 11));
            glm::dvec3 wanted(0.0), got(0.0);
            every_texel(s, [&](const glm::dvec3&, const glm::dvec3& l, double solid) { wanted += l * solid; });
            const int n = 64;
            const FloatImage cube = cube_of(*s.picture, n);
            for (int row = 0; row < 6 * n; ++row)
                for (int x = 0; x < n; ++x) {
                    const double a = (2 * x + 1.0) / n - 1, b = (2 * (row % n) + 1.0) / n - 1,
                                 solid = 4.0 / (n * n) / std::pow(1 + a * a + b * b, 1.5);
                    for (int c = 0; c < 3; ++c)
                        got[c] += cube.pixel(x, row)[c] * solid;
                }
            for (int c = 0; c < 3; ++c)
                QVERIFY2(std::abs(got[c] / wanted[c] - 1) < 0.01, qPrintable(QString::number(got[c] / wanted[c])));
        }
    }

    void bright_texels_are_taken_apart_and_nothing_is_lost() {
        FloatImage image = seeded_picture(64, 4);
        const int n = 32;
        const CubeOfPicture cube = lower_bright(cube_of(picture_of(image), n));
        glm::dvec3 whole(0.0), parts(0.0);
        double most = 0, mostBefore = 0;
        for (int row = 0; row < 6 * n; ++row)
            for (int x = 0; x < n; ++x) {
                const double a = (2 * x + 1.0) / n - 1, b = (2 * (row % n) + 1.0) / n - 1,
                             solid = 4.0 / (n * n) / std::pow(1 + a * a + b * b, 1.5);
                for (int c = 0; c < 3; ++c) {
                    whole[c] += cube.whole.pixel(x, row)[c] * solid;
                    parts[c] += cube.rest.pixel(x, row)[c] * solid;
                }
                most = std::max(most, double(cube.rest.pixel(x, row)[1]));
                mostBefore = std::max(mostBefore, double(cube.whole.pixel(x, row)[1]));
            }
        QVERIFY(!cube.fine.empty() && cube.coarse.size() <= cube.fine.size() && most < 0.5 * mostBefore);
        for (const auto* list : {&cube.fine, &cube.coarse}) {
            glm::dvec3 sum = parts;
            for (const Bright& b : *list)
                sum += b.light;
            QVERIFY(glm::length(sum - whole) < 1e-5 * glm::length(whole));
        }
    }

    void a_lobes_measure_is_its_integral() {
        for (const double r : {0.2, 0.5, 1.0}) {
            double sum = 0;
            const int steps = 400000;
            for (int i = 0; i < steps; ++i) {
                const double z = (i + 0.5) / steps;
                sum += 2 * glm::pi<double>() * brdf::ggx_distribution(std::sqrt(0.5 * (1 + z)), r * r) * z / steps;
            }
            QVERIFY2(std::abs(lobe_measure(r) / sum - 1) < 0.002,
                     qPrintable(QString("%1 %2").arg(lobe_measure(r)).arg(sum)));
        }
    }

    void levels_lie_where_their_roughness_says() {
        for (const int size : {32, 64, 128, 256}) {
            const LobeLevels levels{size, 64};
            QCOMPARE(levels.size >> (levels.mips() - 1), 32);
            for (int i = 0; i < levels.count(); ++i)
                QVERIFY(std::abs(levels.place(levels.roughness(i)) - i) < 1e-9);
            QCOMPARE(levels.roughness(levels.count() - 1), 1.0);
        }
        // A sky is gathered coarser in a quick picture; a picture, which does not change, is not.
        Setup s;
        View view;
        view.wholeWidth = 4 * view.width;
        QVERIFY(lobe_levels(s, view).size < 32 && lobe_levels(s, view).samples < 64);
        QVERIFY(s.set_text("environment.source", "file").has_value());
        QCOMPARE(lobe_levels(s, view).size, 128);
    }

    void a_lobes_samples_average_to_one() {
        for (const double r : {0.1, 0.5, 1.0}) {
            double sum = 0, solid = 0;
            for (const LobeSample& s : lobe_samples(r, 128)) {
                sum += s.weight;
                solid += s.solid;
                QVERIFY(std::abs(glm::length(s.direction) - 1) < 1e-9 && s.direction.z > 0);
            }
            QVERIFY(std::abs(sum - 1) < 1e-9 && solid > 0);
        }
        // Of light that falls off with the cosine to the axis: the same as summed over the hemisphere.
        for (const double r : {0.3, 0.7}) {
            double sum = 0, weights = 0, got = 0;
            for (int i = 0; i < 200000; ++i) {
                const double z = (i + 0.5) / 200000, c = std::sqrt(0.5 * (1 + z));
                const double w = brdf::ggx_distribution(c, r * r) * z;
                sum += w * z;
                weights += w;
            }
            for (const LobeSample& s : lobe_samples(r, 256))
                got += s.weight * s.direction.z;
            QVERIFY2(std::abs(got - sum / weights) < 0.004, qPrintable(QString("%1 %2").arg(got).arg(sum / weights)));
        }
    }

    void what_is_not_light_is_cleaned_counted_and_said() {
        QTemporaryDir folder;
        FloatImage image = seeded_picture(32, 2);
        image.data[4] = std::numeric_limits<float>::infinity();
        image.data[9] = std::numeric_limits<float>::quiet_NaN();
        image.data[40] = -3;
        const std::string path = folder.filePath("bad.exr").toStdString();
        QVERIFY(write_exr(path, image).has_value());
        const auto picture = sky_picture(path);
        QVERIFY(picture.has_value());
        QVERIFY2((*picture)->remark.starts_with("3 of its 512 texels"), (*picture)->remark.c_str());
        for (const float v : (*picture)->image.data)
            QVERIFY(std::isfinite(v) && v >= 0);
        // Too wide a one is averaged.
        FloatImage wide{widest_sky + 8, (widest_sky + 8) / 2, 3, {}};
        wide.data.assign(std::size_t(3) * wide.width * wide.height, 0.25f);
        const std::string large = folder.filePath("wide.hdr").toStdString();
        QVERIFY(write_hdr(large, wide).has_value());
        const auto averaged = sky_picture(large);
        QVERIFY(averaged.has_value());
        QCOMPARE((*averaged)->image.width, (widest_sky + 8) / 2);
        QCOMPARE((*averaged)->image.pixel(17, 9)[1], 0.25f);
        QVERIFY2((*averaged)->remark.find("averaged by 2x2") != std::string::npos, (*averaged)->remark.c_str());
        // What is none, and what is of another shape.
        QFile text(folder.filePath("text.hdr"));
        QVERIFY(text.open(QIODevice::WriteOnly) && text.write("no picture") > 0);
        text.close();
        const auto none = sky_picture(folder.filePath("text.hdr").toStdString());
        QVERIFY(!none && none.error().what.find("Radiance") != std::string::npos);
        image.height = 8;
        image.data.resize(32 * 8 * 4);
        const std::string flat = folder.filePath("flat.exr").toStdString();
        QVERIFY(write_exr(flat, image).has_value());
        const auto shape = sky_picture(flat);
        QVERIFY(!shape && shape.error().what.find("twice as wide") != std::string::npos);
    }

    void the_word_of_older_files_is_taken() {
        Setup s;
        QVERIFY(s.set_text("ambient.kind", "sky").has_value());
        QCOMPARE(s.choice("ambient.kind"), std::string("environment"));
        QCOMPARE(s.choice("environment.source"), std::string("sky"));
    }

    void a_picture_stands_in_the_skys_place_where_it_is_shown() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("around.exr").toStdString();
        QVERIFY(write_exr(path, seeded_picture(32, 9)).has_value());
        Scene scene;
        scene.asset = std::make_shared<SceneAsset>();
        Setup s;
        for (const auto& [key, value] : {std::pair("ambient.kind", "environment"),
                                         {"environment.source", "file"},
                                         {"environment.turn", "30"},
                                         {"sky.kind", "atmosphere"}})
            QVERIFY(s.set_text(key, value).has_value());
        QVERIFY(s.set_text("environment.file", path).has_value());
        View view;
        QVERIFY(sky_settings(scene, s, view).kind == SkyKind::file);
        QVERIFY(std::abs(sky_settings(scene, s, view).turn - glm::radians(30.0)) < 1e-12);
        QVERIFY(s.set("environment.background", false).has_value());
        QVERIFY(sky_settings(scene, s, view).kind == SkyKind::atmosphere);
        const AmbientLight a = ambient_light(scene, s, view);
        QVERIFY(a.sky && a.sky->settings().kind == SkyKind::file);
        QVERIFY(s.set_text("environment.file", "nowhere.exr").has_value());
        const FramePlan plan = plan_frame(scene, s, view);
        QVERIFY(!plan.notes.empty() && plan.notes.front().find("surroundings") != std::string::npos);
    }
};

MIROLUX_TEST(environment_test)
#include "environment_test.moc"
