#include "flat_session.h"

using namespace mirolux;
using namespace mirolux::test;

/// Light on sheets with normal maps.
class flat_normals_test : public QObject {
    Q_OBJECT
private slots:
    void normals_turn_light_by_its_height() {
        FlatStage s = flat_stage(2, 1, 0);
        flat_choose(s, "flat.shadow", "none");
        flat_choose(s, "flat.normals", "on");
        const Light& l = s.scene.lights[0];
        const glm::dvec3 ambient(s.setup.color("flat.ambient"));
        // A sheet without normals faces the eye: the light's height over its distance.
        QCOMPARE(wrong_pixels(s,
                              [&](int x, int y, const glm::dvec2& at) {
                                  const double d = glm::length(at - glm::dvec2(l.position)), h = l.position.z;
                                  return sheet_at(s, x, y) *
                                         glm::clamp(ambient + given(l, at, {}) * (h / std::hypot(h, d)), 0.0, 1.0);
                              }),
                 0);
    }

    /// Highlights and rim light by the stated formula, on a sheet that leans a little on its left half, steeply on its
    /// right.
    void highlights_and_rims_follow_their_formula() {
        FlatStage s = flat_stage(3, 2, 0);
        auto asset = std::make_shared<SceneAsset>(*s.scene.asset);
        const glm::ivec2 leans[] = {{60, 32}, {-70, 96}};
        const auto normal_of = [&](int x) {
            const glm::dvec2 n = glm::dvec2(leans[x >= 64]) / 127.0;
            return glm::dvec3(n, std::sqrt(1 - glm::dot(n, n)));
        };
        TextureImage normals{"normals", 128, 72, {}};
        for (int i = 0; i < 128 * 72; ++i) {
            const glm::dvec3 n = normal_of(i % 128);
            for (int c = 0; c < 3; ++c)
                normals.rgba.push_back(static_cast<std::uint8_t>(std::lround(n[c] * 127 + 128)));
            normals.rgba.push_back(255);
        }
        asset->images.push_back(normals);
        asset->digest = 777;
        auto world = std::make_shared<flat::World>(*asset->flat);
        world->sheets[0].normals = 1;
        asset->flat = world;
        s.scene.asset = asset;
        s.scene.flat = world;
        for (Light& l : s.scene.lights)
            l.intensity = 0.4f;
        flat_choose(s, "flat.shadow", "none");
        flat_choose(s, "flat.normals", "on");
        flat_choose(s, "flat.specular", "0.7");
        flat_choose(s, "flat.gloss", "9");
        flat_choose(s, "flat.rim", "0.6");
        const glm::dvec3 ambient(s.setup.color("flat.ambient"));
        QCOMPARE(wrong_pixels(s,
                              [&](int x, int y, const glm::dvec2& at) {
                                  glm::dvec3 sum = ambient;
                                  const glm::dvec3 n = normal_of(x);
                                  for (const Light& l : s.scene.lights) {
                                      const glm::dvec3 to =
                                          glm::normalize(glm::dvec3(glm::dvec2(l.position) - at, l.position.z));
                                      const double facing = std::max(0.0, glm::dot(n, to));
                                      const glm::dvec3 between = glm::normalize(to + glm::dvec3(0, 0, 1));
                                      const double lean = glm::clamp(2 * (1 - n.z) - 1, 0.0, 1.0);
                                      double all = facing + (facing > 0 ? 0.7 * std::pow(glm::dot(n, between), 9) : 0);
                                      all += 0.6 * lean * lean * (3 - 2 * lean) *
                                             std::max(0.0, glm::dot(glm::dvec2(n), glm::normalize(glm::dvec2(to))));
                                      sum += given(l, at, {}) * all;
                                  }
                                  return sheet_at(s, x, y) * glm::clamp(sum, 0.0, 1.0);
                              }),
                 0);
    }
};

MIROLUX_TEST(flat_normals_test)
#include "flat_normals_test.moc"
