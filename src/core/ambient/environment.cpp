#include "core/ambient/environment.h"
#include "core/ambient/ambient_light.h"
#include "core/base/parallel.h"
#include "core/light/brdf.h"
#include "core/light/luminance.h"
#include "core/technique/plan_builder.h"
#include <cmath>
#include <map>
#include <tuple>

namespace mirolux {

SkySettings environment_sky(const Scene& scene, const Setup& setup, const View& view) {
    return setup.choice("environment.source") != "sky" ? environment_picture(scene, setup)
                                                       : sky_settings(scene, setup, view);
}

double environment_strength(const Setup& setup) {
    return setup.choice("environment.source") != "sky" ? 1.0 : setup.number("environment.strength");
}

bool environment_by_cube(const Setup& setup) {
    return setup.choice("ambient.kind") == "environment" && setup.choice("environment.diffuse") == "cube";
}

bool environment_mirrored(const Setup& setup) {
    return setup.choice("ambient.kind") == "environment" && setup.flag("environment.specular") &&
           setup.choice("shading.model") != "lambert";
}

int LobeLevels::mips() const {
    int n = 1;
    while (size >> n >= 32)
        ++n;
    return n;
}

double LobeLevels::roughness(int level) const {
    return level <= 0 ? 0.0 : sharpest * std::pow(1 / sharpest, double(level - 1) / (count() - 2));
}

double LobeLevels::place(double r) const {
    if (r <= sharpest) return r * r / (sharpest * sharpest); // what a narrow lobe spreads grows with its square
    return 1 + std::log(r / sharpest) / std::log(1 / sharpest) * (count() - 2);
}

double lobe_scale(const SkySettings& sky) {
    return sky.kind == SkyKind::file ? std::max(1.0, sky.picture->brightest / 60000.0) : 1.0;
}

LobeLevels lobe_levels(const Setup& setup, const View& view) {
    // A sky that is dragged is gathered coarser until it rests.
    const bool quick = setup.choice("environment.source") == "sky" && view.wholeWidth > view.width;
    const int samples = setup.whole("environment.samples");
    return {quick ? 16 : std::stoi(setup.choice("environment.size")), quick ? std::min(samples, 16) : samples};
}

int samples_of(int level, int samples) {
    return std::min(samples << (level / LobeLevels::cubes), 1024);
}

std::vector<LobeSample> lobe_samples(double roughness, int count) {
    const double pi = glm::pi<double>(), r = std::max(roughness, brdf::least_roughness), alpha = r * r;
    std::vector<LobeSample> out;
    double sum = 0;
    for (int i = 0; i < count; ++i) {
        double turn = 0, place = 0.5;
        for (unsigned bits = static_cast<unsigned>(i); bits > 0; bits >>= 1, place *= 0.5)
            if (bits & 1) turn += place;
        const double u = (i + 0.5) / count, c2 = (1 - u) / (1 + (alpha * alpha - 1) * u), c = std::sqrt(c2),
                     s = std::sqrt(std::max(0.0, 1 - c2));
        const glm::dvec3 h(s * std::cos(2 * pi * turn), s * std::sin(2 * pi * turn), c),
            l(2 * c * h.x, 2 * c * h.y, 2 * c * c - 1);
        if (l.z <= 0) continue;
        const double density = brdf::ggx_distribution(c, alpha) / 4; // N = V: the half vector's cosines cancel
        out.push_back({l, l.z, 1 / (count * density)});
        sum += l.z;
    }
    for (LobeSample& s : out)
        s.weight /= sum;
    return out;
}

glm::dvec3 cube_direction(int face, double s, double t) {
    switch (face) {
    case 0:
        return glm::normalize(glm::dvec3(1, -t, -s));
    case 1:
        return glm::normalize(glm::dvec3(-1, -t, s));
    case 2:
        return glm::normalize(glm::dvec3(s, 1, t));
    case 3:
        return glm::normalize(glm::dvec3(s, -1, -t));
    case 4:
        return glm::normalize(glm::dvec3(s, -t, 1));
    default:
        return glm::normalize(glm::dvec3(-s, -t, -1));
    }
}

/// Six faces, one below the other; value(face, s, t) of a texel's middle.
template <class Value>
static FloatImage six_faces(int size, const Value& value) {
    FloatImage out{size, 6 * size, 4, std::vector<float>(std::size_t(24) * size * size, 1.0f)};
    parallel_for(0, 6 * size, [&](int row) {
        for (int x = 0; x < size; ++x) {
            const glm::dvec3 v = value(row / size, (2 * x + 1.0) / size - 1, (2 * (row % size) + 1.0) / size - 1);
            float* p = &out.data[(std::size_t(row) * size + x) * 4];
            for (int c = 0; c < 3; ++c)
                p[c] = static_cast<float>(v[c]);
        }
    });
    return out;
}

FloatImage cube_of(const SkyPicture& picture, int size) {
    // At the middle of a face a texel is widest: pi / 2 of the picture's width would be the mean.
    const int looks = std::clamp(static_cast<int>(std::ceil(2.6 * picture.image.width / (4.0 * size))), 2, 24);
    return six_faces(size, [&](int face, double s, double t) {
        glm::dvec3 sum(0.0);
        double solid = 0;
        for (int j = 0; j < looks; ++j)
            for (int i = 0; i < looks; ++i) {
                const double a = s + ((2 * i + 1.0) / looks - 1) / size, b = t + ((2 * j + 1.0) / looks - 1) / size,
                             r = 1 / std::pow(1 + a * a + b * b, 1.5);
                sum += picture.radiance(cube_direction(face, a, b)) * r;
                solid += r;
            }
        return sum / solid;
    });
}

CubeOfPicture lower_bright(FloatImage cube) {
    CubeOfPicture out;
    const int size = cube.width;
    const auto solid = [&](int x, int row) {
        const double a = (2 * x + 1.0) / size - 1, b = (2 * (row % size) + 1.0) / size - 1;
        return 4.0 / (size * size) / std::pow(1 + a * a + b * b, 1.5);
    };
    const auto at = [&](int x, int row) {
        const float* p = cube.pixel(x, row);
        return glm::dvec3(p[0], p[1], p[2]);
    };
    double mean = 0;
    for (int row = 0; row < 6 * size; ++row)
        for (int x = 0; x < size; ++x)
            mean += luminance(at(x, row)) * solid(x, row) / (4 * glm::pi<double>());
    const double bright = 6 * mean;
    std::vector<std::pair<double, glm::ivec2>> texels; // luminance that is too much
    for (int row = 0; row < 6 * size; ++row)
        for (int x = 0; x < size; ++x)
            if (const double l = luminance(at(x, row)); l > bright)
                texels.emplace_back((l - bright) * solid(x, row), glm::ivec2(x, row));
    std::sort(texels.begin(), texels.end(), [](const auto& a, const auto& b) {
        return std::tuple(-a.first, a.second.y, a.second.x) < std::tuple(-b.first, b.second.y, b.second.x);
    });
    if (texels.size() > CubeOfPicture::most) texels.resize(CubeOfPicture::most);
    out.rest = cube;
    std::map<std::pair<int, int>, std::pair<glm::dvec3, glm::dvec3>> squares; // weighed direction, light
    for (const auto& [much, place] : texels) {
        const glm::dvec3 l = at(place.x, place.y), left = l * (bright / luminance(l)),
                         taken = (l - left) * solid(place.x, place.y),
                         d = cube_direction(place.y / size, (2 * place.x + 1.0) / size - 1,
                                            (2 * (place.y % size) + 1.0) / size - 1);
        for (int c = 0; c < 3; ++c)
            out.rest.data[(std::size_t(place.y) * size + place.x) * 4 + static_cast<std::size_t>(c)] =
                static_cast<float>(left[c]);
        out.fine.push_back({d, taken});
        auto& [weighed, light] = squares[{place.y / 4, place.x / 4}];
        weighed += d * luminance(taken);
        light += taken;
    }
    for (const auto& [place, square] : squares)
        out.coarse.push_back({glm::normalize(square.first), square.second});
    out.whole = std::move(cube);
    return out;
}

double lobe_measure(double roughness) {
    const double alpha = std::pow(std::max(roughness, brdf::least_roughness), 2);
    const int steps = 4096;
    double sum = 0;
    for (int i = 0; i < steps; ++i) { // in the half vector's angle, where the lobe is wide or narrow alike
        const double u = (i + 0.5) / steps, c2 = (1 - u) / (1 + (alpha * alpha - 1) * u), z = 2 * c2 - 1;
        if (z > 0) sum += 4 * z / steps; // its density is a fourth of the distribution
    }
    return sum;
}

FloatImage irradiance_cube(const std::vector<LightPart>& parts, int size) {
    return six_faces(size, [&](int face, double s, double t) {
        const glm::dvec3 n = cube_direction(face, s, t);
        glm::dvec3 sum(0.0);
        for (const LightPart& p : parts)
            sum += p.toward(n);
        return sum / glm::pi<double>();
    });
}

StrongParts strong_parts(std::vector<LightPart> parts) {
    const auto strength = [](const LightPart& p) {
        return luminance({glm::length(p.red), glm::length(p.green), glm::length(p.blue)});
    };
    const std::size_t most = std::min(StrongParts::most, parts.size());
    std::partial_sort(parts.begin(), parts.begin() + static_cast<std::ptrdiff_t>(most), parts.end(),
                      [&](const LightPart& a, const LightPart& b) { return strength(a) > strength(b); });
    const auto cut = parts.begin() + static_cast<std::ptrdiff_t>(most);
    return {{parts.begin(), cut}, {cut, parts.end()}};
}

glm::dvec3 lobe_radiance(const SkyModel& sky, double roughness, const glm::dvec3& axis) {
    const double alpha = std::pow(std::max(roughness, brdf::least_roughness), 2);
    const FloatImage& image = sky.settings().picture->image;
    glm::dvec3 sum(0.0);
    double all = 0;
    for (int y = 0; y < image.height; ++y) {
        const double top = glm::pi<double>() * y / image.height, bottom = glm::pi<double>() * (y + 1) / image.height,
                     middle = 0.5 * (top + bottom), solid = std::cos(top) - std::cos(bottom);
        for (int x = 0; x < image.width; ++x) {
            const double azimuth = 2 * glm::pi<double>() * ((x + 0.5) / image.width - 0.5);
            const glm::dvec3 d =
                turned({std::sin(middle) * std::sin(azimuth), std::cos(middle), -std::sin(middle) * std::cos(azimuth)},
                       sky.settings().turn);
            const double facing = glm::dot(axis, d);
            if (facing <= 0) continue;
            const double weight =
                brdf::ggx_distribution(glm::dot(axis, glm::normalize(axis + d)), alpha) * facing * solid;
            const float* p = image.pixel(x, y);
            sum += glm::dvec3(p[0], p[1], p[2]) * weight;
            all += weight;
        }
    }
    return sum / all * sky.settings().strength;
}

ResourceSpec cube_resource(const char* name, const char* sampler, Format format, int size, int cubes, int mips) {
    return {.name = name,
            .sampler = sampler,
            .format = format,
            .width = size,
            .height = size,
            .mips = mips,
            .cubes = cubes,
            .life = Life::scene,
            .forBothEyes = true};
}

int whole_mips(int size) {
    int mips = 1;
    while (size >> mips > 0)
        ++mips;
    return mips;
}

namespace technique {

static void plan_environment(const FrameInputs& in, PlanBuilder& b) {
    if (in.setup.choice("ambient.kind") != "environment") return;
    const SkySettings sky = environment_sky(in.scene, in.setup, in.view);
    if (!shows_environment(in.setup) && !sky.trouble.empty() && in.setup.choice("environment.source") != "sky")
        b.note(sky.trouble); // else the sky says it
    if (!sky.remark.empty() && (!shows_environment(in.setup) || takes_picture_sun(in.setup))) b.note(sky.remark);
    if (takes_picture_sun(in.setup) && sky_light(in.scene.lights, in.setup) < 0)
        b.note("The surroundings' sun is taken out, but the scene has no directional light that could shine for it.");
    const auto strength = static_cast<float>(environment_strength(in.setup));
    const bool picture = sky.kind == SkyKind::file;
    const LobeLevels levels = lobe_levels(in.setup, in.view);
    b.set("environmentForm", {picture ? std::cos(sky.turn) : 1.0, picture ? std::sin(sky.turn) : 0.0,
                              (picture ? sky.strength : 1.0) * strength, levels.count()});
    if (environment_by_cube(in.setup)) {
        SkySettings plain = sky;
        if (picture) { // the lookup turns, and gives it its strength
            plain.turn = 0;
            plain.strength = 1;
        }
        b.set_later([plain] {
            const StrongParts parts = strong_parts(sky_model(plain)->parts());
            Parameters out;
            for (std::size_t i = 0; i < parts.strong.size(); ++i) {
                const LightPart& p = parts.strong[i];
                for (const auto& [name, value] : {std::pair("Red", p.red), {"Green", p.green}, {"Blue", p.blue}})
                    out["environmentPart" + std::to_string(i) + name] =
                        glm::vec4(glm::vec3(value / glm::pi<double>()), p.spread);
            }
            return out;
        });
        b.feed(Slot::ambientDiffuse, "environment/irradiance.glsl", "environmentDiffuse");
    } else {
        b.set_later([sky, strength] {
            const std::shared_ptr<const SkyModel> model = sky_model(sky);
            Parameters out;
            for (std::size_t i = 0; i < 9; ++i)
                out["environment" + std::to_string(i)] = glm::vec4(glm::vec3(model->harmonics()[i]) * strength, 0);
            return out;
        });
        b.feed(Slot::ambientDiffuse, "environment/harmonics.glsl", "environmentDiffuse");
    }
    if (!environment_mirrored(in.setup)) return;
    const bool quick =
        in.view.wholeWidth > in.view.width && levels.size < std::stoi(in.setup.choice("environment.size"));
    const std::string around = std::string(surroundings_resource) + (quick ? ", coarse" : ""),
                      lobes = std::string(lobes_resource) + (quick ? ", coarse" : "");
    b.resource(
        cube_resource(around.c_str(), "surroundings2D", Format::rgba32f, levels.size, 1, whole_mips(levels.size)));
    b.resource(cube_resource(lobes.c_str(), "lobes2D", Format::rgba16f, levels.size, LobeLevels::cubes, levels.mips()));
    std::vector<std::string> reads;
    if (sky.has_sun()) reads.push_back("optical depths");
    if (sky.kind == SkyKind::atmosphere && b.has("sky view"))
        reads.push_back("sky view");
    else if (sky.kind == SkyKind::atmosphere)
        reads.insert(reads.end(), {"multiple scattering", "ground light"});
    b.pass(
        {.name = "surroundings",
         .family = "ambient",
         .what = "Radiance from all directions, on the faces of a cube, and its means over larger and larger squares.",
         .reads = reads,
         .writes = {around},
         .settings = {"environment.source", "environment.file", "environment.size", "environment.update"},
         .expected = Work::drawing(picture ? 0 : 6, picture ? 0 : 6),
         .forBothEyes = true});
    b.pass({.name = "lobes",
            .family = "ambient",
            .what = "Surroundings averaged over lobes of " + std::to_string(levels.count()) + " widths.",
            .reads = {around},
            .writes = {lobes},
            .settings = {"environment.size", "environment.samples", "environment.update"},
            .expected = Work::drawing(static_cast<std::uint64_t>(6 * levels.count()),
                                      static_cast<std::uint64_t>(6 * levels.count())),
            .forBothEyes = true});
    b.set("environmentScale", {lobe_scale(sky), 0, 0, 0});
    if (in.setup.flag("environment.compensated")) b.define("AMBIENT_COMPENSATED");
    b.feed(Slot::ambientSpecular, "environment/mirrored.glsl", "environmentSpecular", {lobes});
}

static void price_environment(const FramePlan& plan, const PlannedPass& pass, const Work& w, CostTerms& t) {
    if (plan.feeds_slot(&environment(), pass))
        if (const std::uint64_t reads = w.at("environmentReads")) t["environmentRead"] = static_cast<double>(reads);
    if (pass.technique != &environment()) return;
    t["run"] = static_cast<double>(w.at("draws"));
    t["environmentSample"] = static_cast<double>(w.at("environmentSamples"));
}

const Technique& environment() {
    static const std::vector<std::pair<std::string, std::string>> exercise = {{"ambient.kind", "environment"},
                                                                              {"environment.update", "always"}};
    const auto of = [](Setting s) { return std::move(s).only_when("ambient.kind", {"environment"}); };
    const auto of_file = [&](Setting s) { return of(std::move(s)).only_when("environment.source", {"file"}); };
    const auto of_picture = [&](Setting s) {
        return of(std::move(s)).only_when("environment.source", {"file", "capture"});
    };
    const auto mirrored = [&](Setting s) { return of(std::move(s)).only_when("environment.specular", {"on"}); };
    static const Technique technique{
        .name = "environment",
        .settings =
            {of(choice_setting("environment.source", "Surroundings", "Ambient", {"sky", "file", "capture"}, "sky",
                               "What lights from all around: the sky as it stands (sky, sun apart), a picture of all "
                               "directions (file), or what a probe has captured (capture).")),
             of_file(text_setting("environment.file", "Picture of surroundings", "Ambient", "",
                                  "An .hdr or .exr picture of all directions, twice as wide as high, beside the scene "
                                  "file or by its whole path.")),
             of(text_setting("environment.probe", "Captured by", "Ambient", "",
                             "The probe whose capture the surroundings are, by name; none: the first one."))
                 .only_when("environment.source", {"capture"}),
             of_picture(toggle_setting("environment.background", "Seen behind", "Ambient", true,
                                       "Shows the picture in the sky's place; off leaves the sky and takes only the "
                                       "picture's light.")),
             of(number_setting("environment.strength", "Strength of surroundings", "Ambient", 1, 0.001, 100000, "",
                               "What their light is multiplied by; of a picture: cd/m\u00b2 of its 1.")
                    .on_ratio()),
             of_picture(choice_setting("environment.sun", "Sun in the picture", "Ambient", {"kept", "taken"}, "kept",
                                       "taken: the small bright spot that stands out is left out of the surroundings' "
                                       "light, and a directional light shines for it, with its shadows: the one that "
                                       "follows the sky's sun, else the first.")),
             of_picture(number_setting("environment.turn", "Surroundings turned", "Ambient", 0, -180, 180, "\u00b0",
                                       "Moves the picture to the right as seen; costs nothing.")),
             of(choice_setting("environment.diffuse", "Diffuse light by", "Ambient", {"harmonics", "cube"}, "harmonics",
                               "harmonics: nine numbers, which cannot hold small bright sources; cube: a small map by "
                               "normal and the four strongest parts, right for all, for a read a fragment.")),
             of(toggle_setting("environment.specular", "Mirrored", "Ambient", true,
                               "Surfaces mirror the surroundings, as wide as they are rough: two reads of a cube map a "
                               "fragment. Off, F0 takes a share of the diffuse light instead.")),
             mirrored(toggle_setting("environment.compensated", "Multiple scattering", "Ambient", true,
                                     "Gives back what rough surfaces lose when light bounces between their facets.")),
             mirrored(choice_setting("environment.size", "Cube's edge", "Ambient", {"32", "64", "128", "256"}, "128",
                                     "Texels along a face: how sharp the sharpest mirror image is. Time and memory of "
                                     "gathering grow with its square.")),
             mirrored(
                 whole_setting("environment.samples", "Samples of a lobe", "Ambient", 128, 8, 256, "",
                               "Directions that a texel of the sharpest lobe is gathered from; twice as many in each "
                               "smaller mip. Fewer show grain around small bright lights.")),
             mirrored(choice_setting("environment.update", "Gathered", "Ambient", {"changed", "always"}, "changed",
                                     "changed: when the surroundings are others; always: in every frame, to see what "
                                     "it costs."))},
        .counters = {{"environmentReads", "Surroundings read", "mirror images read by surfaces, of two widths each"},
                     {"environmentSamples", "Surroundings gathered",
                      "directions of surroundings that were averaged over lobes"}},
        .terms = {{"environmentRead", "a surface's mirror image of the surroundings, and its share of them", exercise,
                   0.2},
                  {"environmentSample", "a direction of the surroundings averaged into a lobe", exercise, 0.05}},
        .layers = {{.name = "ambientDiffuse",
                    .label = "Matt ambient",
                    .help = "What surfaces give back of ambient light by their diffuse lobe; a part of Ambient.",
                    .view = LayerView::radiance,
                    .file = "environment/layers.glsl",
                    .throughGlass = true,
                    .role = "part of Ambient",
                    .when = {{"ambient.kind", {"environment"}}, {"environment.specular", {"on"}}}},
                   {.name = "environment",
                    .label = "Mirrored",
                    .help = "What surfaces mirror of the surroundings, by their roughness and Fresnel; a part of "
                            "Ambient.",
                    .view = LayerView::radiance,
                    .file = "environment/layers.glsl",
                    .throughGlass = true,
                    .role = "part of Ambient",
                    .when = {{"ambient.kind", {"environment"}}, {"environment.specular", {"on"}}}}},
        .parameters = {"environmentForm",  // cosine and sine of the turn, strength, lobes of how many widths
                       "environmentScale", // of what the cubes of lobes hold
                       "environment0", "environment1", "environment2", "environment3", "environment4", "environment5",
                       "environment6", "environment7", "environment8", // harmonics, cd/m2
                       // The strongest parts of their light, over pi: toward them.
                       "environmentPart0Red", "environmentPart0Green", "environmentPart0Blue", "environmentPart1Red",
                       "environmentPart1Green", "environmentPart1Blue", "environmentPart2Red", "environmentPart2Green",
                       "environmentPart2Blue", "environmentPart3Red", "environmentPart3Green", "environmentPart3Blue"},
        .mayFeed = {Slot::ambientDiffuse, Slot::ambientSpecular},
        .plan = plan_environment,
        .price = price_environment,
    };
    return technique;
}

} // namespace technique
} // namespace mirolux
