#include "cli/commands.h"
#include "core/base/text.h"
#include "core/blocks/drawn_scene.h"
#include "core/finish/histogram.h"
#include "core/flat/plane_tracer.h"
#include "core/image/image_io.h"
#include "core/plan/camera_motion.h"
#include "core/truth/remarks.h"
#include "core/truth/truth_picture.h"
#include <csignal>
#include <fmt/format.h>
#include <tbb/global_control.h>

// truth and audit truth: what a frame is held against, traced without a device.
namespace mirolux::cli {

namespace {

std::atomic<bool> stopped = false;

std::string layer_names() {
    std::vector<std::string> names;
    for (const truth::Layer l : truth::all_layers())
        names.emplace_back(truth::word(l));
    return joined(names, ", ");
}

/// Those that the frame has a layer for.
std::string held_layer_names() {
    std::vector<std::string> names;
    for (const truth::Layer l : truth::all_layers())
        if (!truth::frame_layer(l).empty()) names.emplace_back(truth::word(l));
    return joined(names, ", ");
}

std::string in_words(const std::vector<Condition>& conditions) {
    std::vector<std::string> words;
    for (const Condition& c : conditions)
        words.push_back(c.key + " to " + joined(c.words, " or "));
    return joined(words, " and ");
}

/// The arguments as the tracer takes them.
Result<truth::Options> options_of(const TruthArguments& a, const Subject& s) {
    truth::Options o;
    const auto layer = truth::layer_of(a.layer);
    if (!layer) return fail("there is no layer of truth of this name", a.layer, "It is one of: " + layer_names() + ".");
    o.layer = *layer;
    o.bounces = a.bounces;
    o.seed = a.seed;
    o.sequence = a.random ? truth::Sequence::random : truth::Sequence::sobol;
    o.smooth = a.smooth;
    o.shadows = !a.noShadows;
    o.complete = a.complete;
    o.skyAround = a.skyAround;
    o.clamp = a.clamp;
    o.radius = a.radius;
    o.housing = a.housing;
    if (o.layer == truth::Layer::visibility) {
        for (const Light& l : s.open.project.lights)
            if (l.name == a.light) o.light = l.id;
        if (o.light < 0)
            return fail("visibility is of one light", a.light.empty() ? "--light" : a.light,
                        "Name one of the scene's lights with --light; info lists them.");
    }
    return o;
}

/// What is traced, by stage: its samples, what they are kept under, and what the picture makes of their mean.
struct Tracing {
    Scene scene; // the samples' own
    truth::SampleOf sample;
    std::string digest;
    std::vector<std::string> warnings{};
    std::function<FloatImage(FloatImage)> picture = [](FloatImage mean) { return mean; };
    /// Makes both black where they are not of one thing.
    std::function<void(FloatImage& frame, FloatImage& truth)> hold = {};
};

Tracing solid_tracing(const Subject& s, const truth::Options& options) {
    Tracing t{scene_of(s.open), {}, {}};
    const auto rays = std::make_shared<RayScene>(t.scene);
    t.digest = truth::digest_of(t.scene, s.setup, s.view, options);
    t.warnings = truth::remarks(t.scene, s.setup, *rays, options.housing);
    const auto tracer = std::make_shared<const truth::PathTracer>(t.scene, s.setup, s.view, options, rays);
    t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
    return t;
}

/// Black in both where the sky is seen, or a lamp itself: a Blocks stage's frame shows other skies and lamps than light
/// comes from.
void hold_where_lit_by_others(const RayScene& rays, const SceneAsset& asset, const View& view, FloatImage& frame,
                              FloatImage& truth) {
    for (int y = 0; y < view.height; ++y)
        for (int x = 0; x < view.width; ++x) {
            const RayHit hit = rays.nearest(ray_through(view, x + 0.5, y + 0.5));
            const auto glows = [&] {
                const Primitive& p = asset.primitives[static_cast<std::size_t>(hit.object)]; // an object each
                return asset.materials[static_cast<std::size_t>(p.material)].emissive != glm::vec3(0.0f);
            };
            if (hit.object >= 0 && !glows()) continue;
            for (FloatImage* image : {&frame, &truth})
                for (int c = 0; c < image->channels; ++c)
                    image->data[std::size_t(image->channels) *
                                    (std::size_t(y) * std::size_t(view.width) + std::size_t(x)) +
                                std::size_t(c)] = 0;
        }
}

/// Of a flat stage: light in its plane, or the picture under it.
Result<Tracing> flat_tracing(const Subject& s, const TruthArguments& a) {
    if (a.layer != "final" && a.layer != "light")
        return fail("truth of a Flat scene has no such layer", a.layer,
                    "It has final, the picture, and light, what its sheets are multiplied by.");
    for (const auto& [given, option] : {std::pair(a.smooth, "--smooth"),
                                        {a.noShadows, "--no-shadows"},
                                        {a.complete, "--complete"},
                                        {a.skyAround, "--sky"},
                                        {a.random, "--random"},
                                        {a.timeRays, "--time-rays"},
                                        {a.clamp > 0, "--clamp"}})
        if (given) return fail("does not apply to a Flat scene", option, "Leave it out.");
    Tracing t{scene_of(s.open), {}, {}};
    t.digest = flat::plane_digest(t.scene, s.setup, s.view, a.bounces, a.seed);
    const auto tracer = std::make_shared<const flat::PlaneTracer>(t.scene, s.setup, s.view, a.bounces, a.seed);
    t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
    if (a.layer == "final")
        t.picture = [scene = t.scene, setup = s.setup, view = s.view](FloatImage mean) {
            return flat::lit_picture(scene, setup, view, mean);
        };
    return t;
}

/// Of a Blocks stage: its drawn faces, with lamps that shine by themselves.
Result<Tracing> blocks_tracing(const Subject& s, const TruthArguments& a) {
    if (a.layer == "visibility")
        return fail("truth of a Blocks scene has no such layer", a.layer,
                    "Its lamps are cells. Take final or occlusion.");
    auto options = options_of(a, s);
    if (!options) return tl::unexpected(options.error());
    options->skyAround = true;
    Tracing t{scene_of(s.open), {}, {}};
    const blocks::DrawnScene drawn = blocks::drawn_scene(t.scene, s.setup, s.view);
    const auto rays = std::make_shared<RayScene>(drawn.scene);
    t.digest = truth::digest_of(drawn.scene, drawn.setup, s.view, *options);
    const auto tracer = std::make_shared<const truth::PathTracer>(drawn.scene, drawn.setup, s.view, *options, rays);
    t.sample = [tracer](int x, int y, std::uint32_t n, std::uint64_t& r) { return tracer->sample(x, y, n, r); };
    t.hold = [rays, asset = drawn.scene.asset, view = s.view](FloatImage& frame, FloatImage& truth) {
        hold_where_lit_by_others(*rays, *asset, view, frame, truth);
    };
    return t;
}

Result<Tracing> tracing_of(const Subject& s, const TruthArguments& a) {
    if (s.open.project.blocks) return blocks_tracing(s, a);
    if (s.open.project.flat) return flat_tracing(s, a);
    auto options = options_of(a, s);
    if (!options) return tl::unexpected(options.error());
    return solid_tracing(s, *options);
}

/// Goes on from what is kept, or begins; keeps what there is every few seconds and at the end.
truth::Picture traced(const Tracing& tracing, const TruthArguments& a, const View& view) {
    const std::string& digest = tracing.digest;
    const std::filesystem::path kept = truth::kept_path(digest);
    truth::Picture picture(view.width, view.height);
    if (!a.fresh) {
        truth::Resumed from = truth::resumed(digest, picture.width, picture.height);
        if (from.trouble) std::fprintf(stderr, "%s\n", to_text(*from.trouble).c_str());
        picture = std::move(from.picture);
    }
    const auto keep = [&] {
        if (a.forget) return;
        if (auto ok = truth::write_picture(kept, picture, digest); !ok)
            std::fprintf(stderr, "%s\n", to_text(ok.error()).c_str());
    };
    std::signal(SIGINT, [](int) { stopped = true; });
    std::signal(SIGTERM, [](int) { stopped = true; });
    auto said = std::chrono::steady_clock::now(), saved = said;
    truth::refine(tracing.sample, picture, {a.samples, a.error}, [&](double share) {
        const auto now = std::chrono::steady_clock::now();
        if (now - said > std::chrono::seconds(2)) {
            said = now;
            const double left = share > 0 ? picture.seconds * (1 - share) / share : 0;
            std::fprintf(stderr, "%3.0f %%, error %.2f %%, about %.0f s left\n", 100 * share,
                         100 * picture.relative_error(), left);
        }
        if (now - saved > std::chrono::seconds(10)) {
            saved = now;
            keep();
        }
        return !stopped.load();
    });
    keep();
    return picture;
}

/// --time-rays: how fast the rays of a Solid scene's paths are by themselves.
int ray_speed(const Common& c, const TruthArguments& a, const Subject& s) {
    auto options = options_of(a, s);
    if (!options) return complain(options.error(), badInput);
    if (truth::is_geometry(options->layer))
        return complain({"rays are timed of the layers of light", a.layer, "Take final, or leave --layer out."},
                        badInput);
    const Scene scene = scene_of(s.open);
    const auto rays = std::make_shared<RayScene>(scene);
    const truth::PathTracer tracer(scene, s.setup, s.view, *options, rays);
    const truth::RaySpeed speed = truth::time_rays(tracer, *rays);
    return deliver(c,
                   fmt::format("rays alone, one thread: {:.2f} million a second ({:.2f} to the nearest of {}, {:.2f} "
                               "toward lights of {}); toward one source {:.2f} one by one, {:.2f} asked together\n",
                               speed.perSecond * 1e-6, speed.nearestPerSecond * 1e-6, speed.nearest,
                               speed.toLightsPerSecond * 1e-6, speed.toLights, speed.sourcePerSecond * 1e-6,
                               speed.togetherPerSecond * 1e-6),
                   {{"schema", "mirolux.raySpeed"},
                    {"version", 1},
                    {"perSecond", speed.perSecond},
                    {"nearestPerSecond", speed.nearestPerSecond},
                    {"toLightsPerSecond", speed.toLightsPerSecond},
                    {"sourcePerSecond", speed.sourcePerSecond},
                    {"togetherPerSecond", speed.togetherPerSecond}});
}

} // namespace

int truth_picture(const Common& c, const TruthArguments& a) {
    const std::string type = std::filesystem::path(a.output).extension().string();
    if (!a.timeRays && type != ".exr" && type != ".hdr" && type != ".png")
        return complain({"the picture's type is not known", a.output, "End the name in .exr, .hdr or .png."}, badInput);
    if (auto ok = can_write({a.timeRays ? std::string() : a.output, c.json}); !ok)
        return complain(ok.error(), badInput);
    auto s = subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    std::optional<tbb::global_control> threads;
    if (a.threads > 0)
        threads.emplace(tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(a.threads));
    if (a.timeRays && !s->open.project.flat) return ray_speed(c, a, *s);
    auto tracing = tracing_of(*s, a);
    if (!tracing) return complain(tracing.error(), badInput);
    for (const std::string& w : tracing->warnings)
        std::fprintf(stderr, "%s\n", w.c_str());
    const truth::Picture picture = traced(*tracing, a, s->view);
    const FloatImage image = tracing->picture(picture.image());
    FloatImage rgb{image.width, image.height, 3, {}};
    for (std::size_t i = 0; i < image.data.size(); ++i)
        if (i % 4 < 3) rgb.data.push_back(image.data[i]);
    if (auto ok = type == ".png"
                      ? write_png(a.output,
                                  truth::shown(rgb, truth::layer_of(a.layer).value_or(truth::Layer::final), s->setup))
                  : type == ".hdr" ? write_hdr(a.output, rgb)
                                   : write_exr(a.output, rgb);
        !ok)
        return complain(ok.error(), badInput);
    const double perSecond = picture.seconds > 0 ? static_cast<double>(picture.rays) / picture.seconds : 0;
    const nlohmann::json json = {{"schema", "mirolux.truth"},
                                 {"version", 1},
                                 {"layer", a.layer},
                                 {"size", {picture.width, picture.height}},
                                 {"samples", picture.fewest()},
                                 {"error", picture.relative_error()},
                                 {"rays", picture.rays},
                                 {"seconds", picture.seconds},
                                 {"raysPerSecond", perSecond},
                                 {"clamp", a.clamp},
                                 {"digest", tracing->digest},
                                 {"warnings", tracing->warnings},
                                 {"stopped", stopped.load()}};
    std::string text =
        fmt::format("{}: {}, {}x{}, at least {} samples a pixel, error {:.2f} %\n{:.1f} million rays in "
                    "{:.1f} s: {:.2f} million a second\n",
                    a.output, a.layer, picture.width, picture.height, picture.fewest(), 100 * picture.relative_error(),
                    static_cast<double>(picture.rays) * 1e-6, picture.seconds, perSecond * 1e-6);
    if (a.clamp > 0)
        text += fmt::format("clamped: no bounce brings more than {} cd/m2, so the picture is too dark\n", a.clamp);
    if (stopped) text += "stopped before its goal; the same command goes on from here\n";
    return deliver(c, text, json);
}

int audit_truth(const Common& c, const TruthArguments& a) {
    auto s = subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    const bool pictureOnly = s->open.project.flat != nullptr || s->open.project.blocks != nullptr;
    std::string layer = a.layer;
    std::optional<int> light;
    if (!pictureOnly) {
        auto options = options_of(a, *s);
        if (!options) return complain(options.error(), badInput);
        layer = truth::frame_layer(options->layer);
        if (options->layer == truth::Layer::visibility) light = options->light;
    }
    const LayerInfo* info = find_layer(layer);
    if (!info || (pictureOnly && layer != "final"))
        return complain({"the frame has no such layer", a.layer,
                         pictureOnly ? std::string("Of a Flat scene or one of Blocks it has final.")
                                     : "It has " + held_layer_names() + "."},
                        badInput);
    if (!shows(*info, s->setup, true))
        return complain({"the frame has no such layer with this setup", a.layer, "Set " + in_words(info->when) + "."},
                        badInput);
    auto tracing = tracing_of(*s, a);
    if (!tracing) return complain(tracing.error(), badInput);
    WorkerClient worker(worker_options(c));
    RenderOptions o = still_options(c, *s);
    o.picture = false;
    o.floatLayers = {layer};
    o.light = light.value_or(-1);
    auto record = worker.render(tracing->scene, s->setup, s->view, o);
    if (!record) return complain(record.error(), deviceFailed);
    FloatImage& frame = record->floats.at(layer);
    const truth::Picture picture = traced(*tracing, a, s->view);
    FloatImage values = tracing->picture(picture.image());
    if (light && !truth::hold_where_lit(frame, values))
        return complain(
            {"the light falls on nothing that this picture shows", a.light, "Choose a camera that sees it."}, badInput);
    if (tracing->hold) tracing->hold(frame, values);
    const truth::Distance d = truth::distance(frame, values);
    const nlohmann::json json = {{"schema", "mirolux.auditTruth"},
                                 {"version", 1},
                                 {"layer", a.layer},
                                 {"mean", d.mean},
                                 {"rms", d.rms},
                                 {"p95", d.p95},
                                 {"bias", d.bias},
                                 {"samples", picture.fewest()},
                                 {"error", picture.relative_error()}};
    const std::string text = fmt::format("{}: the frame against truth of {} samples (error {:.2f} %), over the truth's "
                                         "mean\nmean {:.2f} %  rms {:.2f} %  "
                                         "p95 {:.2f} %  bias {:+.2f} %\n",
                                         a.layer, picture.fewest(), 100 * picture.relative_error(), 100 * d.mean,
                                         100 * d.rms, 100 * d.p95, 100 * d.bias);
    if (const int code = deliver(c, text, json); code != done) return code;
    return a.gate >= 0 && d.mean > a.gate ? int(gateMissed) : int(done);
}

} // namespace mirolux::cli
