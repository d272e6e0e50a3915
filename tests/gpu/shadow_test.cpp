#include "core/plan/camera_motion.h"
#include "core/shadow/shadow_audit.h"
#include "core/shadow/shadow_maps.h"
#include "shadowed.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

namespace {

/// A box or a ball over a plane, in closed form.
struct Solid {
    bool ball = false;
    glm::dvec3 low{0.0}, high{0.0}; // of a box
    glm::dvec3 middle{0.0};
    double radius = 0;

    /// True if the way from a to b meets it.
    bool stops(const glm::dvec3& a, const glm::dvec3& b) const {
        const glm::dvec3 d = b - a;
        if (ball) {
            const double t = std::clamp(glm::dot(middle - a, d) / glm::dot(d, d), 0.0, 1.0);
            return glm::length(a + d * t - middle) < radius;
        }
        double from = 0, to = 1;
        for (int k = 0; k < 3; ++k) {
            if (std::abs(d[k]) < 1e-12) {
                if (a[k] < low[k] || a[k] > high[k]) return false;
                continue;
            }
            double x = (low[k] - a[k]) / d[k], y = (high[k] - a[k]) / d[k];
            if (x > y) std::swap(x, y);
            from = std::max(from, x);
            to = std::min(to, y);
        }
        return from < to;
    }
};

void add_ball(SceneAsset& asset, const glm::vec3& middle, float radius) {
    constexpr int across = 96, down = 48;
    Primitive p;
    p.material = 0;
    for (int j = 0; j <= down; ++j)
        for (int i = 0; i <= across; ++i) {
            const float a = 6.2831853f * i / across, b = 3.14159265f * j / down;
            Vertex v;
            v.normal = {std::sin(b) * std::cos(a), std::cos(b), std::sin(b) * std::sin(a)};
            v.position = middle + radius * v.normal;
            p.vertices.push_back(v);
            p.bounds.add(v.position);
        }
    for (int j = 0; j < down; ++j)
        for (int i = 0; i < across; ++i) {
            const auto at = static_cast<std::uint32_t>(j * (across + 1) + i);
            for (const std::uint32_t k : {0u, 1u, across + 2u, 0u, across + 2u, across + 1u})
                p.indices.push_back(at + k);
        }
    Object o;
    o.primitive = static_cast<int>(asset.primitives.size());
    o.bounds = p.bounds;
    asset.primitives.push_back(p);
    asset.objects.push_back(o);
    asset.objectNames.push_back({"ball " + std::to_string(asset.objects.size()), "ball", -1});
    asset.bounds.add(p.bounds);
}

/// A plane with one solid over it, or a second one over that, seen from above, under one light.
struct Arrangement {
    Scene scene;
    View view;
    Solid solid;
    std::optional<Solid> second; // between the first and the light
    Light light;

    glm::dvec3 light_place(const glm::dvec3& p) const {
        return light.type == LightType::directional ? p - 200.0 * glm::dvec3(light.direction)
                                                    : glm::dvec3(light.position);
    }
    bool open(const glm::dvec3& p) const {
        return !solid.stops(p, light_place(p)) && !(second && second->stops(p, light_place(p)));
    }
};

Solid put_solid(SceneAsset& asset, bool ball, const glm::vec3& middle, float half) {
    Solid s{ball, glm::dvec3(middle) - double(half), glm::dvec3(middle) + double(half), middle, half};
    if (ball)
        add_ball(asset, middle, half);
    else
        add_box(asset, 0, middle - half, glm::vec3(2 * half));
    return s;
}

Arrangement arrangement(std::uint32_t seed, bool two = false) {
    std::mt19937 r(seed);
    Arrangement a;
    SceneAsset asset;
    asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
    add_quad(asset, 0, {-12, 0, 12}, {24, 0, 0}, {0, 0, -24});
    const glm::vec3 middle(random_in(r, -2, 2), random_in(r, 0.8f, 2.5f), random_in(r, -2, 2));
    const float half = random_in(r, 0.4f, 0.8f);
    a.solid = put_solid(asset, seed % 2, middle, half);
    Light& l = a.light;
    l.id = 1;
    l.name = "lamp";
    l.type = seed % 3 == 0 ? LightType::directional : seed % 3 == 1 ? LightType::spot : LightType::point;
    l.position = {random_in(r, -4, 4), random_in(r, 5.0f, 8.0f), random_in(r, -4, 4)};
    l.direction = glm::normalize(middle - l.position);
    l.outerConeAngle = 0.9f;
    l.innerConeAngle = 0.5f;
    l.intensity = l.type == LightType::directional ? 5.0f : 800.0f;
    l.range = 40;
    if (two) { // smaller, a third of the way to the light: its shadow lies on the first one, and beside
        const glm::vec3 toLight = l.type == LightType::directional ? -6.0f * l.direction : l.position - middle;
        a.second = put_solid(asset, seed % 2 == 0, middle + 0.4f * toLight + glm::vec3(0.5f * half, 0, 0), 0.6f * half);
    }
    a.scene.asset = finished(std::move(asset));
    a.scene.lights = {l};
    a.view = view_from({0.01f, 12, 0}, {0, 0, 0}, 200, 200);
    a.view.camera.fovY = 0.95f;
    return a;
}

/// Pixels of the plane that lie farther from a true edge than a filter may reach.
struct Checked {
    int looked = 0, shaded = 0;
    int dark = 0;                          // shadow where there is none
    int leaking = 0, leakingElsewhere = 0; // light where there is none; of them far from the second solid's edge
    double leak = 0;                       // sum of it

    Checked& operator+=(const Checked& c) {
        looked += c.looked;
        shaded += c.shaded;
        dark += c.dark;
        leaking += c.leaking;
        leakingElsewhere += c.leakingElsewhere;
        leak += c.leak;
        return *this;
    }
};

/// Width of a filter's reach in footprints, beyond 1.5 of them.
double reach_of(const std::string& filter) {
    return filter == "hard"       ? 0
           : filter == "bilinear" ? 1
           : filter == "disc"     ? 3
           : filter == "pcss"     ? 1.5
                                  : 7; // blurred over two texels and read between them, of the second level at most
}

/// True if the answer changes within a distance of a place of the plane.
template <class Answer>
bool changes_near(const glm::dvec3& p, double distance, const Answer& answer) {
    const bool here = answer(p);
    for (int k = 0; k < 48; ++k) {
        const double far = distance * (k / 16 + 1) / 3.0, angle = 0.3926990817 * k;
        if (answer(p + glm::dvec3(std::cos(angle), 0, std::sin(angle)) * far) != here) return true;
    }
    return false;
}

Checked checked(const Arrangement& a, const std::string& filter, const char* leak, const char* points = "atlas") {
    Checked out;
    const Setup setup = shadowed(
        {{"shadow.filter", filter}, {"shadow.leak", leak}, {"shadow.points", points}, {"cascade.distance", "30"}});
    const DrawList draws = build_draw_list(a.scene, setup, a.view);
    const ShadowSet set = shadow_set(a.scene, setup, a.view, draws);
    if (set.lights.size() != 1) qFatal("the light has no map");
    const FloatImage share = shadow_of(a.scene, setup, a.view, 1);
    for (int y = 2; y < 198; y += 3)
        for (int x = 2; x < 198; x += 3) {
            const Ray ray = ray_through(a.view, x + 0.5, y + 0.5);
            const glm::dvec3 o(ray.origin), d(ray.direction);
            const glm::dvec3 p = o - d * (o.y / d.y);
            if (a.solid.stops(o, p - d * 1e-3) || (a.second && a.second->stops(o, p - d * 1e-3)) || std::abs(p.x) > 8 ||
                std::abs(p.z) > 8)
                continue;
            const glm::dvec3 to = glm::normalize(a.light_place(p) - p);
            if (a.light.type == LightType::spot && glm::dot(-to, glm::dvec3(a.light.direction)) < std::cos(0.88))
                continue;
            // The map's texel here, along its axis.
            double texel = 0, upright = 0; // upright: cosine between the plane's normal and the map's axis
            const ShadowMap& first = set.maps.front();
            if (a.light.type == LightType::directional) {
                const CascadeLookup at =
                    cascade_at({set.maps[0].cascade, set.maps[1].cascade, set.maps[2].cascade, set.maps[3].cascade},
                               12 - p.y, set.cascades);
                texel = set.maps[static_cast<std::size_t>(at.first + (at.share > 0))].texel(1);
                upright = to.y;
            } else {
                const glm::dvec3 v = p - glm::dvec3(a.light.position);
                texel = first.texel(a.light.type == LightType::spot
                                        ? glm::dot(v, glm::dvec3(a.light.direction))
                                        : std::max({std::abs(v.x), std::abs(v.y), std::abs(v.z)}));
                upright = a.light.type == LightType::spot                           ? -a.light.direction.y
                          : std::abs(v.y) >= std::max(std::abs(v.x), std::abs(v.z)) ? 1
                                                                                    : 0.05;
            }
            const double facing = to.y, elevation = facing / std::sqrt(1 - facing * facing + 1e-9);
            const double footprint = texel / std::max(facing, 0.1);
            // All that the set moves a lookup by, as a bias along the light.
            const double slope = std::sqrt(1 - upright * upright) / std::max(upright, 0.05);
            const double moved = setup.number("shadow.bias") + texel * 1.42 * slope * setup.number("shadow.slopeBias") +
                                 texel * slope * setup.number("shadow.normalOffset");
            const double tolerance = (1.5 + reach_of(filter)) * footprint + moved / elevation + 0.004;
            if (changes_near(p, tolerance, [&](const glm::dvec3& at) { return a.open(at); })) continue;
            const bool open = a.open(p);
            const double got = share.pixel(x, y)[0];
            ++out.looked;
            out.shaded += !open;
            if (open)
                out.dark += got < 1 - 1e-3;
            else if (got > (a.second ? 0.01 : 1e-3)) { // a hundredth is not seen
                ++out.leaking;
                out.leak += got;
                out.leakingElsewhere += !a.second || !changes_near(p, tolerance, [&](const glm::dvec3& at) {
                    return a.second->stops(at, a.light_place(at));
                });
            }
        }
    return out;
}

/// Pixels around a low box whose shadow a bias of half a metre takes off.
struct ContactCounts {
    int pixels = 0, differ = 0;        // differ: between forward and deferred
    int gap = 0, lost = 0, closed = 0; // at the foot: all, without their shadow, with it by contact
    int opened = 0, dark = 0;          // open ones, and those of them that contact darkens
};

ContactCounts contact_counts(std::uint32_t seed) {
    ContactCounts n;
    std::mt19937 r(seed);
    SceneAsset asset;
    asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
    add_quad(asset, 0, {-12, 0, 12}, {24, 0, 0}, {0, 0, -24});
    Solid box;
    box.low = {random_in(r, -0.6f, -0.3f), 0, random_in(r, -0.6f, -0.3f)};
    box.high = {random_in(r, 0.3f, 0.6f), random_in(r, 0.12f, 0.25f), random_in(r, 0.3f, 0.6f)};
    add_box(asset, 0, glm::vec3(box.low), glm::vec3(box.high - box.low));
    Scene scene;
    scene.asset = finished(std::move(asset));
    Light l;
    l.id = 1;
    l.type = seed % 2 ? LightType::directional : LightType::spot;
    const float turn = random_in(r, 0, 6.28f);
    const glm::vec3 to = glm::normalize(glm::vec3(std::cos(turn), random_in(r, 0.7f, 1.2f), std::sin(turn)));
    l.direction = -to;
    l.position = 9.0f * to;
    l.outerConeAngle = 0.5f;
    l.intensity = seed % 2 ? 5.0f : 800.0f;
    l.range = 40;
    scene.lights = {l};
    View view =
        view_from(glm::vec3(2.2f * std::cos(turn + 2.0f), 2.4f, 2.2f * std::sin(turn + 2.0f)), {0, 0, 0}, 256, 192);
    view.camera.fovY = 0.7f;
    const auto share = [&](const char* contact, const char* path) {
        return shadow_of(scene,
                         shadowed({{"shadow.bias", "0.5"},
                                   {"shadow.contact", contact},
                                   {"shadow.contactLength", "0.3"},
                                   {"shadow.contactSteps", "24"},
                                   {"path.kind", path},
                                   {"cascade.distance", "20"}}),
                         view, 1);
    };
    const FloatImage without = share("off", "forward"), with = share("on", "forward"),
                     deferred = share("on", "tiled-deferred");
    for (int y = 1; y < view.height - 1; ++y)
        for (int x = 1; x < view.width - 1; ++x) {
            n.differ += std::abs(with.pixel(x, y)[0] - deferred.pixel(x, y)[0]) > 0.01f;
            const Ray ray = ray_through(view, x + 0.5, y + 0.5);
            const glm::dvec3 o(ray.origin), d(ray.direction), p = o - d * (o.y / d.y);
            if (box.stops(o, p - d * 1e-3)) continue;
            const glm::dvec3 toLight =
                l.type == LightType::directional ? glm::dvec3(to) : glm::normalize(glm::dvec3(l.position) - p);
            const auto stopped = [&](const glm::dvec3& q, double metres) {
                return box.stops(q + toLight * 1e-4, q + toLight * metres);
            };
            if (!changes_near(p, 0.03, [&](const glm::dvec3& q) { return stopped(q, 40); })) {
                const bool open = !stopped(p, 40);
                n.opened += open;
                n.dark += open && with.pixel(x, y)[0] < 0.99f;
            }
            // Where the box lies well within the march's reach.
            if (!stopped(p, 0.2) || changes_near(p, 0.03, [&](const glm::dvec3& q) { return stopped(q, 40); }))
                continue;
            ++n.gap;
            n.lost += without.pixel(x, y)[0] > 0.5f;
            n.closed += with.pixel(x, y)[0] < 0.5f;
        }
    n.pixels = view.width * view.height;
    return n;
}

} // namespace

/// Shadow maps on the device against closed forms.
class shadow_test : public QObject {
    Q_OBJECT

private slots:
    /// 20 arrangements: no pixel of the plane farther from the true edge than 1.5 footprints, the filter's radius and
    /// what the bias moves it is wrong.
    void no_pixel_is_wrong_far_from_a_true_edge() {
        for (const char* filter : {"hard", "bilinear", "disc", "pcss", "variance", "exponential", "moments"}) {
            Checked all;
            const std::uint32_t seeds = reach_of(filter) < 5 ? 20 : 6;
            for (std::uint32_t seed = 1; seed <= seeds; ++seed)
                all += checked(arrangement(seed), filter, "0.2");
            QVERIFY2(all.looked > 1000 * int(seeds) && all.shaded > 50,
                     qPrintable(QString("%1 %2").arg(all.looked).arg(all.shaded)));
            QVERIFY2(all.dark == 0 && all.leaking == 0, qPrintable(QString("%1: %2 dark and %3 lit of %4")
                                                                       .arg(filter)
                                                                       .arg(all.dark)
                                                                       .arg(all.leaking)
                                                                       .arg(all.looked)));
        }
    }

    /// The same with the maps of points as cubes; a cube's faces are those of the atlas, seen by direction.
    void cubes_are_as_right_as_six_places() {
        for (const char* filter : {"hard", "bilinear", "disc", "pcss"}) {
            Checked all;
            int points = 0;
            for (std::uint32_t seed = 1; seed <= 20; ++seed) {
                const Arrangement a = arrangement(seed);
                if (a.light.type != LightType::point) continue;
                ++points;
                all += checked(a, filter, "0.2", "cube");
            }
            QVERIFY2(points > 4 && all.looked > 1000 * points && all.shaded > 20, qPrintable(QString::number(points)));
            QVERIFY2(all.dark == 0 && all.leaking == 0, qPrintable(QString("%1: %2 dark and %3 lit of %4")
                                                                       .arg(filter)
                                                                       .arg(all.dark)
                                                                       .arg(all.leaking)
                                                                       .arg(all.looked)));
        }
        // In a whole scene: every light that was mapped still is, and pictures differ at edges alone.
        const Scene scene = random_scene(5, 12);
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 192, 108);
        const auto setup = [](const char* points) {
            return shadowed({{"shadow.points", points}, {"shadow.casters", "12"}, {"cascade.distance", "40"}});
        };
        const DrawList draws = build_draw_list(scene, setup("cube"), view);
        const ShadowSet cubes = shadow_set(scene, setup("cube"), view, draws),
                        places = shadow_set(scene, setup("atlas"), view, draws);
        QVERIFY(cubes.cubes >= 2 && cubes.lights.size() == places.lights.size());
        std::set<int> layers;
        for (const ShadowMap& m : cubes.maps)
            if (m.layer >= 0) layers.insert(m.layer);
        QCOMPARE(static_cast<int>(layers.size()), 6 * cubes.cubes);
        const FloatImage a = hdr(scene, setup("atlas"), view), b = hdr(scene, setup("cube"), view);
        int off = 0;
        for (std::size_t i = 0; i < a.data.size(); i += 4)
            off += std::abs(a.data[i + 1] - b.data[i + 1]) > 0.1f * std::max({a.data[i + 1], b.data[i + 1], 0.02f});
        QVERIFY2(off < 192 * 108 / 50, qPrintable(QString::number(off)));
        // Kept like any other map: a still view draws none of them again.
        (void)hdr(scene, setup("cube"), view);
        RenderOptions o;
        o.count = true;
        for (const PassRecord& p : rendered(scene, setup("cube"), view, o).passes)
            QVERIFY(p.family != "shadows" || p.work.at("draws") == 0);
        // A face can be looked at.
        RenderOptions look;
        look.targets = {{"shadow cubes", {}, 6 * cubes.cubes - 1}};
        QCOMPARE(rendered(scene, setup("cube"), view, look).targets.at(0).width, cubes.cubeSize);
        // What does not fit is refused with a word.
        Setup little = setup("cube");
        QVERIFY(little.set("shadow.budget", 0.25).has_value());
        QVERIFY(!shadow_set(scene, little, view, draws).refused.empty());
    }

    /// Two solids, one behind the other: filters by blurred depths let light through where their depths mix, and
    /// nowhere else: beside the shadow of the one that is nearer to the light. None is too dark.
    void leaks_lie_where_two_casters_mix() {
        std::map<std::string, double> leaked;
        for (const char* filter : {"bilinear", "variance", "exponential", "moments"}) {
            Checked all;
            for (std::uint32_t seed = 1; seed <= 8; ++seed)
                all += checked(arrangement(seed, true), filter, "0");
            qInfo("%s: %.2f %% of %d shadowed pixels leak, by %.3f of the light there; %d of them far from the nearer "
                  "caster's edge",
                  filter, 100.0 * all.leaking / all.shaded, all.shaded, all.leaking ? all.leak / all.leaking : 0.0,
                  all.leakingElsewhere);
            QVERIFY2(all.shaded > 100, qPrintable(QString::number(all.shaded)));
            QVERIFY2(all.dark == 0, qPrintable(QString("%1: %2 dark").arg(filter).arg(all.dark)));
            QVERIFY2(all.leakingElsewhere == 0,
                     qPrintable(QString("%1: %2 elsewhere").arg(filter).arg(all.leakingElsewhere)));
            leaked[filter] = all.leak / all.shaded;
        }
        QVERIFY(leaked["bilinear"] == 0);
        QVERIFY2(leaked["variance"] > 0.0005, qPrintable(QString::number(leaked["variance"])));
        QVERIFY(leaked["exponential"] < 0.5 * leaked["variance"]);
        QVERIFY(leaked["moments"] < 0.5 * leaked["variance"]);
    }

    /// A straight edge over a plane: pcss's penumbra is as wide as the source makes it.
    void penumbrae_are_as_wide_as_their_source_makes_them() {
        double worst = 0;
        for (std::uint32_t seed = 1; seed <= 20; ++seed) {
            std::mt19937 r(seed);
            const bool sun = seed % 2;
            const double height = random_in(r, 6, 10), edge = random_in(r, 1.0f, 3.0f);
            SceneAsset asset;
            asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
            add_quad(asset, 0, {-20, 0, 20}, {40, 0, 0}, {0, 0, -40});
            add_quad(asset, 0, {-6, static_cast<float>(edge), 6}, {6, 0, 0}, {0, 0, -12}); // ends at x = 0
            Scene scene;
            scene.asset = finished(std::move(asset));
            Light l;
            l.id = 1;
            l.type = sun ? LightType::directional : LightType::spot;
            l.position = {0, static_cast<float>(height), 0};
            l.direction = glm::normalize(glm::vec3(0, -1, 0.0001f));
            l.outerConeAngle = 0.6f;
            l.intensity = sun ? 5.0f : 900.0f;
            l.range = 60;
            l.sourceSize = sun ? glm::radians(random_in(r, 4, 12)) : random_in(r, 0.25f, 0.8f);
            scene.lights = {l};
            const double width =
                sun ? 2 * std::tan(0.5 * double(l.sourceSize)) * edge : double(l.sourceSize) * edge / (height - edge);
            // Looks along the edge's shadow, from under the plate.
            View view = view_from({0, static_cast<float>(edge * 0.8), 1}, {0, 0, 0}, 480, 48); // four widths across
            view.camera.fovY = static_cast<float>(0.4 * width / std::hypot(edge * 0.8, 1.0));
            const Setup setup = shadowed({{"shadow.filter", "pcss"},
                                          {"shadow.taps", "64"},
                                          {"shadow.resolution", "2048"},
                                          {"shadow.widest", "400"},
                                          {"cascade.distance", "16"},
                                          {"cascade.count", "1"},
                                          {"cascade.resolution", "2048"},
                                          {"cascade.fade", "0"}});
            const DrawList draws = build_draw_list(scene, setup, view);
            const ShadowSet set = shadow_set(scene, setup, view, draws);
            QVERIFY2(width > 8 * set.maps.front().texel(height), qPrintable(QString::number(seed)));
            // Mean share over the rows at each x of the plane.
            const FloatImage share = shadow_of(scene, setup, view, 1);
            std::map<int, std::pair<double, int>> bins; // 60 a width
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                    const glm::dvec3 o(ray.origin), d(ray.direction);
                    if (d.y > -1e-6) continue;
                    const glm::dvec3 p = o - d * (o.y / d.y);
                    auto& bin = bins[static_cast<int>(std::floor(p.x / width * 60))];
                    bin.first += share.pixel(x, y)[0];
                    ++bin.second;
                }
            std::vector<std::pair<double, double>> curve;
            for (const auto& [at, sum] : bins)
                if (at > -90 && at < 90) curve.emplace_back((at + 0.5) * width / 60, sum.first / sum.second);
            const auto crossing = [&](double level) {
                for (std::size_t i = 2; i + 2 < curve.size(); ++i) { // means of five, against grain
                    double here = 0, next = 0;
                    for (std::size_t k = 0; k < 4; ++k) {
                        here += curve[i - 2 + k].second / 4;
                        next += curve[i - 1 + k].second / 4;
                    }
                    if (here < level && next >= level)
                        return curve[i].first - width / 120 + width / 60 * (level - here) / (next - here);
                }
                return 1e9;
            };
            const double measured = (crossing(0.9) - crossing(0.1)) / 0.687, off = std::abs(measured / width - 1);
            QVERIFY2(
                off < 0.15,
                qPrintable(
                    QString("%1 (%2): %3 m for %4 m").arg(seed).arg(sun ? "sun" : "spot").arg(measured).arg(width)));
            worst = std::max(worst, off);
        }
        qInfo("penumbra's width off by %.1f %% at most", 100 * worst);
    }

    /// With the sphere's fit, moves of the camera leave every texel of the sun's maps where it was.
    /// A bias of half a metre takes the shadow off a low box; the march on the screen puts it back at the foot, as far
    /// as it reaches, and darkens nothing that lies open.
    void contact_shadows_close_the_gap_that_bias_leaves() {
        ContactCounts all;
        for (std::uint32_t seed = 1; seed <= 8; ++seed) {
            const ContactCounts n = contact_counts(seed);
            QVERIFY2(n.differ < n.pixels / 100, qPrintable(QString::number(n.differ)));
            all.gap += n.gap;
            all.lost += n.lost;
            all.closed += n.closed;
            all.opened += n.opened;
            all.dark += n.dark;
        }
        qInfo("%d pixels at the foot: %d have lost their shadow, %d have it with contact; %d of %d open ones are dark",
              all.gap, all.lost, all.closed, all.dark, all.opened);
        QVERIFY(all.gap > 1500 && all.lost > all.gap * 9 / 10);
        QVERIFY2(all.closed > all.gap * 9 / 10, qPrintable(QString("%1 of %2").arg(all.closed).arg(all.gap)));
        QVERIFY2(all.dark < all.opened / 100, qPrintable(QString("%1 of %2").arg(all.dark).arg(all.opened)));
    }

    void maps_do_not_crawl() {
        const Scene scene = random_scene(7, 1); // a directional light alone
        const Setup setup =
            shadowed({{"cascade.count", "2"}, {"cascade.resolution", "256"}, {"cascade.distance", "30"}});
        const View view = view_from({8, 4, 12}, {0, 1, 0}, 160, 90);
        const auto maps_of = [&](const View& v) {
            RenderOptions o;
            o.targets = {{"shadow atlas"}};
            return std::pair(std::move(rendered(scene, setup, v, o).targets[0]),
                             shadow_set(scene, setup, v, build_draw_list(scene, setup, v)));
        };
        const auto [before, setBefore] = maps_of(view);
        int equal = 0, compared = 0;
        for (int move = 1; move <= 12; ++move) {
            View moved = view;
            const glm::vec3 by(0.013f * move * move, 0.002f * move, -0.021f * move);
            moved.camera.eye += by;
            moved.camera.aim += by;
            const auto [after, setAfter] = maps_of(moved);
            for (std::size_t m = 0; m < setBefore.maps.size(); ++m) {
                const ShadowMap &a = setBefore.maps[m], &b = setAfter.maps[m];
                const glm::dvec3 step = (b.cascade.corner - a.cascade.corner) / a.cascade.texel;
                const int dx = static_cast<int>(std::lround(step.x)), dy = static_cast<int>(std::lround(step.y));
                const double deeper = (b.cascade.corner.z - a.cascade.corner.z) / a.range;
                int agree = 0, all = 0;
                bool same = true;
                for (int y = 0; y < 256; ++y)
                    for (int x = 0; x < 256; ++x) {
                        if (x + dx < 0 || x + dx >= 256 || y + dy < 0 || y + dy >= 256) continue;
                        const float p = before.pixel(a.x + x + dx, before.height - 1 - a.y - y - dy)[0],
                                    q = after.pixel(b.x + x, after.height - 1 - b.y - y)[0];
                        ++all;
                        same = same && p == q;
                        agree += (p == 0 && q == 0) || std::abs(double(q) - (double(p) - deeper)) < 1e-5;
                    }
                QVERIFY2(agree >= 0.999 * all, qPrintable(QString("%1 of %2").arg(agree).arg(all)));
                if (a.toMap == b.toMap) {
                    QVERIFY(same);
                    ++equal;
                }
                ++compared;
            }
        }
        QVERIFY2(equal >= 2 && compared - equal >= 6, qPrintable(QString("%1 of %2").arg(equal).arg(compared)));
    }

    /// What casts: objects by their switch, glass by the setting; what lies behind nothing else changes.
    /// Sheets that show a light their front or their back, what receives nothing, and boxes in the place of things, of
    /// each type of light.
    void sides_receivers_and_proxies_are_heeded() {
        for (const LightType type : {LightType::directional, LightType::spot, LightType::point})
            for (const bool up : {true, false}) {
                SceneAsset asset;
                asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
                add_quad(asset, 0, {-8, 0, 8}, {16, 0, 0}, {0, 0, -16});
                if (up)
                    add_quad(asset, 0, {-1, 1, 1}, {2, 0, 0}, {0, 0, -2});
                else
                    add_quad(asset, 0, {-1, 1, -1}, {2, 0, 0}, {0, 0, 2});
                Scene scene;
                scene.asset = finished(std::move(asset));
                Light l;
                l.id = 1;
                l.type = type;
                l.position = {0.1f, 6, 0.2f};
                l.direction = {0, -1, 0};
                l.intensity = type == LightType::directional ? 5 : 800;
                l.outerConeAngle = 0.9f;
                l.range = 40;
                scene.lights = {l};
                const View view = view_from({0, 0.5f, 0.01f}, {0, 0, 0}, 32, 32); // from under the sheet
                const auto left = [&](Casting casts, bool receives, const char* proxies, bool box) {
                    ObjectEdit ground = edit_of({}, *scene.asset, 0), sheet = edit_of({}, *scene.asset, 1), proxy;
                    ground.receives = receives;
                    sheet.casts = casts;
                    proxy.id = proxy.name = "proxy";
                    proxy.proxy = box;
                    proxy.translation = {0, 1, 0};
                    proxy.scale = {2, 0.1f, 2};
                    std::vector<ObjectEdit> edits;
                    take_edits(edits, {ground, sheet, proxy});
                    Scene edited = scene;
                    edited.placed = place_objects(*scene.asset, edits);
                    return shadow_of(edited, shadowed({{"shadow.proxies", proxies}, {"cascade.distance", "20"}}), view,
                                     1)
                        .pixel(16, 16)[0];
                };
                QCOMPARE(left(Casting::yes, true, "on", false), 0.0f);
                QCOMPARE(left(Casting::front, true, "on", false), up ? 0.0f : 1.0f);
                QCOMPARE(left(Casting::no, true, "on", false), 1.0f);
                QCOMPARE(left(Casting::yes, false, "on", false), 1.0f);
                QCOMPARE(left(Casting::proxied, true, "on", false), 1.0f);
                QCOMPARE(left(Casting::proxied, true, "off", false), 0.0f);
                QCOMPARE(left(Casting::no, true, "on", true), 0.0f);
                QCOMPARE(left(Casting::no, true, "off", true), 1.0f);
            }
    }

    void casting_switches_and_glass_are_heeded() {
        SceneAsset asset;
        asset.materials.push_back(plain_material(glm::vec3(0.8f), 0, 1));
        Material glass = plain_material(glm::vec3(0.8f), 0, 1);
        glass.alphaMode = AlphaMode::blend;
        glass.baseColor.a = 0.4f;
        asset.materials.push_back(glass);
        add_quad(asset, 0, {-8, 0, 8}, {16, 0, 0}, {0, 0, -16});
        add_quad(asset, 0, {-3, 1, 1}, {2, 0, 0}, {0, 0, -2});
        add_quad(asset, 1, {1, 1, 1}, {2, 0, 0}, {0, 0, -2});
        Scene scene;
        scene.asset = finished(std::move(asset));
        Light l;
        l.id = 1;
        l.type = LightType::directional;
        l.direction = {0, -1, 0};
        scene.lights = {l};
        const View view = view_from({0, 0.5f, 0.01f}, {0, 0, 0}, 400, 200); // from under the plates
        View wide = view;
        wide.camera.fovY = 2.6f;
        const auto mean_at = [&](const Scene& s, const Setup& setup, double px) {
            const FloatImage share = shadow_of(s, setup, wide, 1);
            double sum = 0;
            int n = 0;
            for (int y = 60; y < 140; ++y)
                for (int x = 0; x < 400; ++x) {
                    const Ray ray = ray_through(wide, x + 0.5, y + 0.5);
                    const glm::dvec3 o(ray.origin), d(ray.direction), p = o - d * (o.y / d.y);
                    if (std::abs(p.x - px) > 0.5 || std::abs(p.z) > 0.5) continue;
                    sum += share.pixel(x, y)[0];
                    ++n;
                }
            if (n < 20) qFatal("only %d pixels", n);
            return sum / n;
        };
        const auto with = [&](const char* blended) {
            return shadowed({{"shadow.blended", blended}, {"cascade.distance", "20"}, {"cascade.count", "1"}});
        };
        QVERIFY(mean_at(scene, with("nothing"), -2) == 0 && mean_at(scene, with("nothing"), 2) == 1);
        QVERIFY(mean_at(scene, with("whole"), 2) == 0);
        Scene edited = scene;
        auto placed = std::make_shared<PlacedObjects>();
        placed->objects = scene.objects();
        placed->bounds = scene.bounds();
        placed->objects[1].casts = Casting::no;
        edited.placed = placed;
        QVERIFY(mean_at(edited, with("nothing"), -2) == 1);
        // As many texels as the glass's alpha says: 4 m2 of it.
        const Setup dithered = with("dithered");
        const ShadowMap map = shadow_set(edited, dithered, wide, build_draw_list(edited, dithered, wide)).maps.at(0);
        RenderOptions o;
        o.targets = {{"shadow atlas"}};
        const FloatImage atlas = std::move(rendered(edited, dithered, wide, o).targets[0]);
        const double plate = (map.toMap * glm::dvec4(2, 1, 0, 1)).z;
        int texels = 0;
        for (const float z : atlas.data)
            texels += std::abs(z - plate) < 1e-5;
        const double share = texels * map.texel(1) * map.texel(1) / 4;
        QVERIFY2(std::abs(share - 0.4) < 0.02, qPrintable(QString::number(share)));
        auto unseen = std::make_shared<PlacedObjects>(*placed);
        unseen->objects[1].casts = Casting::unseen;
        edited.placed = unseen;
        QVERIFY(mean_at(edited, with("nothing"), -2) == 0);
        // A light's own: none, and half the opacity.
        scene.lights[0].shadow.opacity = 0.5f;
        QVERIFY(std::abs(mean_at(scene, with("nothing"), -2) - 0.5) < 1e-6);
        scene.lights[0].shadow.mode = ShadowMode::none;
        QVERIFY(mean_at(scene, with("nothing"), -2) == 1);
    }
};

MIROLUX_TEST(shadow_test)
#include "shadow_test.moc"
