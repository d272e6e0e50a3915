#include "cli/commands.h"
#include "core/technique/layer.h"
#include <CLI/CLI.hpp>
#include <cmath>
#include <fmt/format.h>

using namespace mirolux::cli;

namespace {

/// A finite number from low to high; NaN, infinity and what is no number are refused with the range.
CLI::Validator number(double low, double high, const std::string& words) {
    return CLI::Validator(
        [=](std::string& text) -> std::string {
            char* end = nullptr;
            const double v = std::strtod(text.c_str(), &end);
            if (text.empty() || *end != '\0' || !std::isfinite(v) || v < low || v > high)
                return "\"" + text + "\" is not " + words;
            return {};
        },
        "", words);
}
CLI::Validator positive() {
    return number(std::nextafter(0.0, 1.0), 1e12, "a finite number over 0");
}
CLI::Validator not_negative() {
    return number(0.0, 1e12, "a finite number, 0 or more");
}
CLI::Validator between(double low, double high) {
    const std::string words = fmt::format("a number from {:g} to {:g}", low, high);
    return number(low, high, words);
}
CLI::Validator folder() {
    return CLI::Validator(
        [](std::string& text) -> std::string {
            std::error_code ec;
            return std::filesystem::is_directory(text, ec) ? "" : "\"" + text + "\" is no folder";
        },
        "", "a folder");
}

/// The command line: each command with its options, and what it runs.
class CommandLine {
public:
    CommandLine() {
        app_.require_subcommand(1);
        app_.footer("Exit codes: 0 done; 2 bad use or bad input; 3 a budget or a gate was missed; 4 the device or the "
                    "worker failed.");
        add_descriptions();
        add_render();
        add_compare();
        add_measure();
        add_audits();
        add_visibility();
        add_sky();
        add_bias();
        add_probes();
        add_spots();
        add_sheet();
        add_blocks();
        auto* out = json(scene(add("export", "a Solid scene with the project's edits, its lights and clips, as glTF",
                                   [this] { return export_scene(common_, output_); }),
                               false));
        out->add_option("-o,--output", output_, "the .glb file")->required();
        add_truth();
        add_account();
        add_walk();
        add_selftest();
        add_journal();
        add_targets();
        add_profiles();
        add_predict();
    }

    int run(int argc, char** argv) {
        try {
            app_.parse(argc, argv);
        } catch (const CLI::ParseError& e) {
            return app_.exit(e) == 0 ? done : badInput;
        }
        return run_();
    }

private:
    template <class Run>
    CLI::App* add(const char* name, const char* help, Run run, CLI::App* parent = nullptr) {
        CLI::App* sub = (parent ? parent : &app_)->add_subcommand(name, help);
        sub->callback([this, run] { run_ = run; });
        return sub;
    }

    CLI::App* json(CLI::App* sub) {
        sub->add_option("--json", common_.json, "write JSON to a file, or - for standard output");
        return sub;
    }

    CLI::App* device(CLI::App* sub) {
        sub->add_option("--device", common_.device, "auto or software")->check(CLI::IsMember({"auto", "software"}));
        sub->add_option("--watchdog", common_.watchdogSeconds,
                        "seconds without a sign of life after which the worker is ended")
            ->check(between(1, 86400));
        sub->add_option("--memory-limit", common_.memoryLimitMiB,
                        "MiB that a frame's targets may take; a quarter of the machine's memory if none is given")
            ->check(between(1, 1 << 24));
        return sub;
    }

    /// ownTarget: the command reads --target itself.
    CLI::App* scene(CLI::App* sub, bool onDevice, bool sequence = true, bool ownTarget = false) {
        if (!ownTarget)
            sub->add_option("--target", common_.target,
                            "a target of the project: its size, eyes and setup, without what is off on it");
        sub->add_option("SCENE", common_.scene, "a project (.mirolux) or a scene file (glTF)")->required();
        sub->add_option("--setup", common_.setupName, "a setup that the project keeps under this name");
        sub->add_option("--set", common_.sets, "key=value; may be repeated")->take_all()->allow_extra_args(false);
        sub->add_option("--size", common_.size, "picture size, WxH");
        sub->add_option("--hide", common_.hide, "objects by name or id (* and ?, or a part); may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--casts", common_.casts,
                        "PATTERN=yes, front, no, unseen or proxied: whether objects stand in the way of lamps; may be "
                        "repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--receives", common_.receives,
                        "PATTERN=yes or no: whether shadows fall on objects; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option(
               "--proxies", common_.proxies,
               "PATTERN or PATTERN=METRES: objects in whose place fitted boxes cast, so far within them, where "
               "shadow.proxies is on; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--door", common_.doors, "PATTERN=SHARE: how far doors without a leaf stand open, 0 to 1");
        sub->add_option("--room", common_.rooms, "NAME=x,y,z,x,y,z: a room drawn by hand, by two corners in metres");
        sub->add_option("--move", common_.moves, "PATTERN=x,y,z: objects moved so many metres; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--scene", common_.choice.scene, "which of the file's scenes, by name");
        sub->add_option("--variant", common_.choice.variant, "the materials' variant, by name");
        sub->add_option("--clip", common_.clips,
                        "NAME or NAME=SHARE: a clip of the file that plays; the others do not; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_flag("--starter", common_.starter,
                      "a scene file that nobody has set up: add light, if it has none, and an exposure, as the window "
                      "does");
        sub->add_option("--stereo", common_.stereo,
                        "off, two-passes or one-pass; the project's target's if none is named")
            ->check(CLI::IsMember({"off", "two-passes", "one-pass"}));
        sub->add_option("--camera", common_.camera, "a named camera");
        sub->add_option("--eye", common_.eye, "x,y,z of the camera, metres");
        sub->add_option("--aim", common_.aim, "x,y,z that it looks at");
        sub->add_option("--fov", common_.fov, "vertical field of view, degrees")->check(between(0.5, 175));
        sub->add_option("--time,--seconds", common_.seconds, "scene time in seconds, moves the moving lights")
            ->check(between(-1e9, 1e9))
            ->each([this](const std::string&) { common_.seconds_given = true; });
        if (!onDevice) return sub;
        if (sequence)
            sub->add_option("--frames", common_.frames,
                            "from a reset, so many frames at the target's rate, the last one at --time; as many as "
                            "settle the picture if none is given")
                ->check(CLI::Range(1, 100000));
        sub->add_option("--shaders", common_.shaders, "a folder whose shader files stand before the built-in ones")
            ->check(folder());
        return device(sub);
    }

    static void against(CLI::App* sub, std::vector<std::string>& sets, std::string& setup) {
        sub->add_option("--against", sets, "key=value in which B differs; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--against-setup", setup, "a named setup as B");
    }

    void add_descriptions() {
        auto* infoCommand = json(scene(add("info", "stage, counts, bounds, objects, lights, cameras, walks, warnings",
                                           [this] { return info(common_, pattern_); }),
                                       false));
        infoCommand->add_option("--objects", pattern_, "list the objects whose name or id matches: * and ?, or a part");
        auto* settingsCommand = json(add("settings", "every setting: key, label, range or choices, default, help",
                                         [this] { return settings(common_, markdown_); }));
        settingsCommand->add_flag("--markdown", markdown_, "the docs page");
        json(scene(add("plan", "the frame's passes in order, its resources, what they read and write, and their memory",
                       [this] { return plan(common_); }),
                   false));
    }

    void add_render() {
        std::string layers;
        for (const mirolux::LayerInfo& l : mirolux::all_layers())
            layers += (layers.empty() ? "" : ", ") + l.name;
        auto* sub =
            scene(add("render", "the picture, or a layer of the frame", [this] { return render(common_, render_); }),
                  true, true, true);
        sub->add_option("-o,--output", render_.output, "file: .png after the tone curve; .exr, .hdr scene-linear");
        sub->add_option("--layer", render_.layer, layers);
        sub->add_option("--light", render_.light, "the light that a layer of one light shows, by name");
        sub->add_option(
               "--target", render_.targets,
               "a target of the frame (plan lists them) instead of a layer, with its plain values (.exr, .hdr), "
               "or as a picture in the range of its own values (.png); or a target of the project: its size, "
               "eyes and setup, without what is off on it; may be repeated for one of each")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--after", render_.target.after,
                        "the target as it is when this pass has run; the last that uses it if none is named");
        sub->add_option("--slice", render_.target.layer, "of a target with layers: the eye, from 0")
            ->check(CLI::Range(0, 2047));
        sub->add_option("--mip", render_.target.mip, "level of a target with mips, from 0")->check(CLI::Range(0, 16));
        sub->add_flag("--stencil", render_.target.stencil, "of a depth target: its marks");
        sub->add_option("--layers", render_.layersFolder, "write every layer as PNG into this folder");
    }

    void add_compare() {
        auto* sub = json(
            add("compare",
                "two scene-linear pictures (.exr) against each other; exit 3 if they differ by more than is allowed",
                [this] { return compare(common_, compare_); }));
        sub->add_option("BEFORE", compare_.before, "a picture")->required();
        sub->add_option("AFTER", compare_.after, "another of the same size")->required();
        sub->add_option("--plus", compare_.plus, "a picture that is added to AFTER first; may be repeated");
        sub->add_option("--minus", compare_.minus, "a picture that is taken from AFTER first; may be repeated");
        sub->add_option("--steps", compare_.steps, "half-float steps that a value may differ by")
            ->check(CLI::Range(0, 65536));
        sub->add_option("--share", compare_.share, "share of pixels that may differ so")->check(between(0, 1));
    }

    void add_measure() {
        auto* sub = json(
            scene(add("measure", "times of each pass with intervals, work counters; --against for a paired comparison",
                      [this] { return measure(common_, measure_); }),
                  true));
        against(sub, measure_.against, measure_.againstSetup);
        sub->add_option("--without", measure_.without,
                        "objects by name or id that B leaves out: what they cost, and how far the picture is from "
                        "one without them; may be repeated")
            ->take_all()
            ->allow_extra_args(false);
        sub->add_option("--rounds", measure_.rounds, "how many rounds")->check(CLI::Range(1, 100000));
        sub->add_option("--clock", measure_.clock, "auto, fenced or gpu")
            ->check(CLI::IsMember({"auto", "fenced", "gpu"}));
        sub->add_option("--budget", measure_.budget, "ms; exit 3 if the p95 is over it")->check(positive());
        sub->add_option("--precision", measure_.precision,
                        "end early once the interval's half width is this share of the median, 0.01 for 1 %")
            ->check(between(0.0001, 1.0));
        sub->add_flag("--until-clear", measure_.untilClear,
                      "with --against: end early once the difference is beyond doubt");
        sub->add_option("--baseline", measure_.baseline,
                        "a JSON record of this command from the same device to hold this one against");
        sub->add_option("--regression", measure_.regression,
                        "percent: exit 3 if the frame is shown to be slower than the baseline by more")
            ->check(not_negative());
        sub->add_option("--csv", measure_.csv, "write the table as CSV");
        sub->add_option("--html", measure_.html, "write a self-contained report");
        sub->add_flag("--log", measure_.log, "keep it in the project's logbook, round by round");
    }

    void add_audits() {
        auto* audit = audit_ = app_.add_subcommand("audit", "a technique held against its exact reference");
        audit->require_subcommand(1);
        json(scene(add(
                       "lists", "light lists: missed, surplus, overflow, lengths; exit 3 if a light is missed",
                       [this] { return audit_lists(common_); }, audit),
                   true));
        auto* sub = json(scene(
            add(
                "picture", "the picture against the same with other settings: differences, PSNR; --gate for exit 3",
                [this] { return audit_picture(common_, picture_); }, audit),
            true));
        against(sub, picture_.against, picture_.againstSetup);
        sub->add_option("--gate", picture_.gate, "exit 3 if the mean difference is over this share of A's mean")
            ->check(not_negative());
        sub->add_option("--threshold", picture_.threshold, "relative difference from which a pixel counts as different")
            ->check(positive());
        auto* shadows = json(scene(add(
                                       "shadows", "shadows as rendered against rays: missed, false, penumbra's error",
                                       [this] { return audit_shadows(common_, every_); }, audit),
                                   true));
        auto* occlusion =
            json(scene(add(
                           "occlusion", "the screen's ambient occlusion against rays: mean, p95, worst, bias",
                           [this] { return audit_occlusion(common_, every_, rays_); }, audit),
                       true));
        occlusion->add_option("--every", every_, "pixels: 2 looks at every second one in both directions")
            ->check(CLI::Range(1, 64));
        occlusion->add_option("--rays", rays_, "rays of a pixel")->check(CLI::Range(1, 65536));
        json(scene(add(
                       "reflections", "reflections on the screen against mirrored rays: right, wrong, no answer",
                       [this] { return audit_reflections(common_, every_); }, audit),
                   true))
            ->add_option("--every", every_, "texels: 2 looks at every second one in both directions")
            ->check(CLI::Range(1, 64));
        shadows->add_option("--every", every_, "pixels: 2 looks at every second one in both directions")
            ->check(CLI::Range(1, 64));
        auto* maps = json(
            scene(add(
                      "lightmap", "every way of keeping the light maps that were baked: bytes, error, highlights kept",
                      [this] { return audit_light_map(common_, reference_); }, audit),
                  true));
        maps->add_option("--reference", reference_,
                         "paths a pixel of bounced light that joins live straight light, which maps are held against")
            ->check(CLI::Range(0, 65536));
        auto* probes = json(
            scene(add(
                      "probes", "every grid of probes in space that was computed, against paths: error, leaks, bytes",
                      [this] { return audit_space_probes(common_, places_, paths_); }, audit),
                  true, false));
        probes->add_option("--places", places_, "on what stands still (2000)")->check(CLI::Range(10, 1000000));
        probes->add_option("--samples", paths_, "paths of each (128)")->check(CLI::Range(1, 65536));
        auto* edges =
            json(scene(add(
                           "edges", "ways of smoothing edges against many samples a pixel: error, crawl, bytes, time",
                           [this] { return audit_edges(common_, edges_); }, audit),
                       true, false));
        edges->add_option("--way", edges_.ways, "one of them, repeatable; all if none is given");
        edges->add_option("--frames", edges_.frames, "frames of the slow pan")->check(CLI::Range(1, 240));
        edges->add_option("--pan", edges_.pan, "pixels that it moves in a frame")->check(CLI::Range(0.0, 64.0));
        edges->add_option("--truth", edges_.side, "samples of the truth along a pixel's side")
            ->check(CLI::Range(2, 16));
        edges->add_option("--rounds", edges_.rounds, "pairs of frames that are timed for each way; 0: none")
            ->check(CLI::Range(0, 101));
        auto* flood = json(
            scene(add(
                      "flood", "a Blocks stage's levels against a fresh flood, after edits; exit 3 if one is wrong",
                      [this] { return audit_flood(common_, flood_); }, audit),
                  false));
        flood->add_option("--dump", flood_.dump, "levels of all cells, as they are (docs/blocks-format.md)");
        flood->add_option("--edits", flood_.edits, "random changes of cells and lamps that come before")
            ->check(CLI::Range(0, 1000000));
        flood->add_option("--seed", flood_.seed, "of the changes");
        json(scene(add(
                       "cast", "hits of a Blocks stage's rays against a test of every cell; exit 3 if one is wrong",
                       [this] { return audit_cast(common_, headings_); }, audit),
                   false))
            ->add_option("--headings", headings_, "of props, cast beforehand to be held against casting at each turn")
            ->check(CLI::Range(1, 64));
        json(
            scene(add(
                      "origin", "directions that a Blocks stage's cells know against every lamp: angle, specular light",
                      [this] { return audit_origin(common_, originPicture_); }, audit),
                  true, false))
            ->add_option("-o,--output", originPicture_, "PNG: true specular light, the cells', their difference");
        auto* truth =
            json(scene(add(
                           "truth", "a layer of the frame against its truth: mean, rms, p95, bias; --gate for exit 3",
                           [this] { return audit_truth(common_, truth_); }, audit),
                       true));
        tracing(truth);
        truth->add_option("--gate", truth_.gate, "exit 3 if the mean distance is over this share of the truth's mean")
            ->check(not_negative());
    }

    void add_visibility() {
        auto* audit = json(scene(
            add(
                "visibility", "what is left out of pictures against what shows in them; exit 3 if something is missing",
                [this] { return audit_visibility(common_, visibility_); }, audit_),
            true));
        audit->add_flag("--along", visibility_.along, "the whole walk, at each place round about");
        audit->add_option("--kind", visibility_.kinds, "a visibility.kind, repeatable: all on the same pictures");
        audit->add_option("--walk", visibility_.walk, "the walk, by name; the first one if none is given");
        audit->add_option("--every", visibility_.every, "metres between places")->check(CLI::Range(0.05, 100.0));
        audit
            ->add_option("--headings", visibility_.headings,
                         "directions at each place, evenly round; 0: the walk's own")
            ->check(CLI::Range(0, 64));
        auto* sub =
            json(scene(add("bake", "computes something beforehand, beside the project; goes on where it stopped",
                           [this] { return bake(common_, bake_); }),
                       true, false));
        sub->add_option(
               "--what", bake_.what,
               "visibility: objects seen from each cell, and rooms between doors; lightmap: the light that "
               "falls on what stands still; shadowmask: shadows of lamps that stay where they are; occlusion: how open "
               "what stands still is (by texel, or by vertex as occlusion.baked has it); probes: bounced "
               "light in a grid of places")
            ->required()
            ->check(CLI::IsMember({"visibility", "lightmap", "shadowmask", "occlusion", "probes", "patches"}));
        sub->add_option("--density", bake_.density, "of what is baked by texel: texels a metre")
            ->check(CLI::Range(0.01, 1000.0));
        sub->add_option("--spacing", bake_.spacing, "of probes: metres from one to the next")
            ->check(CLI::Range(0.01, 1000.0));
        sub->add_option("--samples", bake_.samples, "paths or rays a texel, or a probe; of masks: rays a lamp")
            ->check(CLI::Range(1, 1 << 20));
        sub->add_option("--bounces", bake_.bounces, "of light, after the surface itself; -1: as many as it takes")
            ->check(CLI::Range(-1, 64));
        sub->add_option("--for", bake_.seconds, "seconds: stop after so long and keep what is done")->check(positive());
    }

    void add_probes() {
        auto* probes = app_.add_subcommand("probes", "places whose surroundings are captured as ambient light");
        probes->require_subcommand(1);
        auto* list = json(scene(add(
                                    "list", "where they stand, whether they are captured, and in what light",
                                    [this] { return list_probes(common_, probes_); }, probes),
                                true));
        list->add_flag("--cost", probes_.cost, "also what a capture would take: one of its views is rendered");
        auto* capture = json(scene(add(
                                       "capture", "captures them with the chosen setup, beside the project",
                                       [this] { return capture_probes(common_, probes_); }, probes),
                                   true));
        for (CLI::App* sub : {list, capture})
            sub->add_option("--probe", probes_.probe, "one of them, by name");
    }

    void add_spots() {
        auto* sub = json(scene(add("spots",
                                   "what if a point light were two, three or four spots: maps, times in pairs, and how "
                                   "far the picture is from what it was",
                                   [this] { return spots(common_, spots_); }),
                               true, true));
        sub->add_option("--light", spots_.light, "the point light, by name")->required();
        sub->add_option("--count", spots_.count, "spots; all three counts if none is given")->check(CLI::Range(2, 4));
        sub->add_option("--rounds", spots_.rounds, "pairs of frames for each count")->check(CLI::Range(3, 101));
    }

    void add_blocks() {
        auto* sub = json(scene(add("blocks", "a Blocks world of a Solid scene, or of a folder of PNG slices",
                                   [this] { return make_blocks(common_, blocks_); }),
                               false));
        sub->add_option("-o,--output", blocks_.output, "the .blocks file")->required();
        sub->add_option("--edge", blocks_.edge, "metres of a cell")->check(CLI::Range(0.01, 100.0));
        sub->add_option("--materials", blocks_.materials, "at most, beside lamps: colours that are alike are joined")
            ->check(CLI::Range(1, 224));
        sub->add_flag("--no-lamps", blocks_.noLamps, "leave out point and spot lights");
    }

    void add_sheet() {
        auto* sub = json(scene(add("sheet",
                                   "the frame broken into its layers, each alone and the sum so far: .png, or .exr "
                                   "with a part for each",
                                   [this] { return sheet(common_, sheet_); }),
                               true, false));
        sub->add_option("-o,--output", sheet_.output, "the file")->required();
        sub->add_option("--columns", sheet_.columns, "cells side by side")->check(CLI::Range(1, 12));
        sub->add_option("--cell", sheet_.width, "pixels of a cell's width")->check(CLI::Range(48, 2048));
        sub->add_flag("--grey", sheet_.grey, "black and white");
    }

    void add_sky() {
        json(scene(add("sky", "sun and moon: where they stand, what the air leaves of them, what the sky gives",
                       [this] { return sky(common_); }),
                   true));
    }

    void add_bias() {
        auto* sub = json(scene(add("bias",
                                   "the bias of shadow maps that misses least while no more than a share of the pixels "
                                   "is shadowed falsely",
                                   [this] { return bias(common_, bias_); }),
                               true));
        sub->add_option("--light", bias_.light, "its own bias, by name; all lights', by the setup's, if none is named");
        sub->add_option("--false", bias_.falsely, "share of pixels that may be shadowed falsely, 0.002 for 0.2 %")
            ->check(between(0.0, 1.0));
        sub->add_option("--every", bias_.every, "pixels: 2 looks at every second one in both directions")
            ->check(CLI::Range(1, 64));
    }

    void tracing(CLI::App* sub) {
        sub->add_option("--layer", truth_.layer,
                        "final, direct, diffuse, specular, indirect, indirect-diffuse, indirect-specular, scattering, "
                        "visibility, occlusion or mirror");
        sub->add_option("--samples", truth_.samples, "paths of each pixel, or the most of them with --error")
            ->check(CLI::Range(1u, 1u << 24));
        sub->add_option(
               "--error", truth_.error,
               "stop when the pixels' standard error is on average this share of the picture's mean, 0.01 for 1 %, and "
               "go where it is largest")
            ->check(between(0.0001, 1.0));
        sub->add_option("--bounces", truth_.bounces, "of light after the surface that is seen; as many as it takes")
            ->check(CLI::Range(0, 4096));
        sub->add_option("--seed", truth_.seed, "of all random choices");
        sub->add_option("--threads", truth_.threads, "how many; the picture is the same")->check(CLI::Range(1, 1024));
        sub->add_option("--light", truth_.light, "of the layer visibility");
        sub->add_option("--radius", truth_.radius, "metres, of the layer occlusion")->check(positive());
        sub->add_option("--housing", truth_.housing,
                        "metres around a lamp in which nothing shades it: its own glass and shade")
            ->check(not_negative());
        sub->add_option("--clamp", truth_.clamp, "cd/m2 that one bounce may bring at most: less noise, and too dark")
            ->check(positive());
        sub->add_flag("--smooth", truth_.smooth, "over each pixel's area; else its centre, as the frame is sampled");
        sub->add_flag("--no-shadows", truth_.noShadows,
                      "lights shine through everything, as in a frame without shadows");
        sub->add_flag("--complete", truth_.complete, "lights without ranges and fades: as they would be");
        sub->add_flag("--sky", truth_.skyAround, "what leaves the scene meets the sky; else the ambient light");
        sub->add_flag("--random", truth_.random, "independent random numbers in place of a low-discrepancy sequence");
        sub->add_flag("--fresh", truth_.fresh, "begin anew, whatever is kept");
        sub->add_flag("--forget", truth_.forget, "keep nothing for the next time");
    }

    void add_truth() {
        auto* sub = json(scene(add("truth", "the picture as light would have it, traced by paths; needs no device",
                                   [this] { return truth_picture(common_, truth_); }),
                               false));
        auto* output =
            sub->add_option("-o,--output", truth_.output, ".exr or .hdr; .png as the frame's finish shows it");
        sub->add_flag("--time-rays", truth_.timeRays, "no picture: how fast its rays are by themselves, on one thread")
            ->excludes(output);
        tracing(sub);
    }

    void add_account() {
        auto* pixelCommand = json(scene(add("pixel", "the pixel account: why a pixel has its value, light by light",
                                            [this] { return pixel(common_, x_, y_); }),
                                        true));
        pixelCommand->add_option("X", x_, "column")->required();
        pixelCommand->add_option("Y", y_, "row from the top")->required();
        auto* sub = json(scene(add("ledger", "what each light costs and gives in this view",
                                   [this] { return ledger(common_, sort_, ledgerRounds_, byObject_); }),
                               true));
        sub->add_option("--sort", sort_, "cost, contribution, ratio or name")
            ->check(CLI::IsMember({"cost", "contribution", "ratio", "name"}));
        sub->add_flag("--objects", byObject_, "what each object costs, in place of the lights");
        sub->add_option("--rounds", ledgerRounds_, "frames that the shading time is the median of")
            ->check(CLI::Range(1, 1000));
    }

    void add_walk() {
        auto* sub =
            json(scene(add("walk", "cost along a recorded camera path: percentiles, worst place; --gate for exit 3",
                           [this] { return walk(common_, walk_); }),
                       true));
        sub->add_option("--walk", walk_.walk, "the walk's name; the project's first if none is named");
        sub->add_option("--every", walk_.every, "metres between places")->check(between(0.05, 1000.0));
        sub->add_option("--sweeps", walk_.sweeps, "how often the whole walk is gone")->check(CLI::Range(1, 1000));
        sub->add_option("--look-around", walk_.headings,
                        "directions to look in at each place, instead of the walk's own")
            ->check(CLI::Range(2, 64));
        against(sub, walk_.against, walk_.againstSetup);
        sub->add_option("--budget", walk_.budget, "ms; the project's chosen target's if none is given")
            ->check(positive());
        sub->add_option("--gate", walk_.gate, "exit 3 if this is over the budget: p50, p95, p99 or worst")
            ->check(CLI::IsMember({"p50", "p95", "p99", "worst"}));
        sub->add_flag("--log", walk_.log, "keep it in the project's logbook");
        sub->add_option("--note", walk_.note, "with --log: what this step did, for the journal");
        sub->add_option("--csv", walk_.csv, "write a row a place as CSV");
    }

    void add_selftest() {
        auto* sub = json(scene(
            add("selftest", "clocks, A against A, an injected slowdown; exit 3 when measurements cannot be trusted",
                [this] { return selftest(common_, selftest_); }),
            true));
        sub->add_option("--runs", selftest_.runs, "paired measurements of each kind")->check(CLI::Range(5, 10000));
        sub->add_option("--rounds", selftest_.rounds, "rounds of each")->check(CLI::Range(5, 1000));
        sub->add_option("--overhead", selftest_.overheadRounds,
                        "only what the clock costs whole frames, in so many paired rounds; exit 3 if over 1 % is shown")
            ->check(CLI::Range(6, 100000));
        sub->add_flag("--long", selftest_.longForm, "200 runs of each kind");
        auto* noiseCommand = json(scene(
            add("noise",
                "records frame times of a setup that never changes, and counts the false alarms of ways to compare",
                [this] { return noise(common_, noiseFrames_, noiseReport_); }),
            true, false));
        noiseCommand->add_option("--frames", noiseFrames_, "how many are recorded")->check(CLI::Range(100, 10000000));
        noiseCommand->add_option("--report", noiseReport_, "write the page, .md");
    }

    void add_journal() {
        auto* sub = json(add("journal", "the logbook's measured states in order: what changed and what it gained",
                             [this] { return journal(common_, journal_); }));
        sub->add_option("SCENE", common_.scene, "a project (.mirolux)")->required();
        sub->add_option("--html", journal_.html, "write a self-contained report that prints well");
        sub->add_option("--csv", journal_.csv, "write a row an entry as CSV");
        sub->add_option("--on-device", journal_.query.device, "only entries of this device, as the driver names it");
        sub->add_option("--scene-digest", journal_.query.sceneDigest, "only entries of a scene file of this digest");
        sub->add_option("--setup-digest", journal_.query.setupDigest, "only entries of this setup");
        sub->add_option("--target", journal_.query.targetName, "only entries of this target");
        sub->add_option("--kind", journal_.kind,
                        "instead of entries: pair, the paired comparisons, or walk, the walks that were logged")
            ->check(CLI::IsMember({"pair", "walk"}));
        sub->add_option("--limit", journal_.query.limit, "the newest so many")->check(CLI::Range(1, 100000000));
    }

    void add_targets() {
        auto* sub = json(scene(
            add("targets", "how every target of the project stands: measured here, or predicted for its device profile",
                [this] { return targets(common_, targetRounds_, targetGate_); }),
            true));
        sub->add_option("--rounds", targetRounds_, "how many rounds for a measured one")->check(CLI::Range(1, 100000));
        sub->add_flag("--gate", targetGate_, "exit 3 if a target is over its budget");
    }

    void add_profiles() {
        auto* calibrateCommand =
            json(device(add("calibrate", "times known workloads on this device and fits a device profile to them",
                            [this] { return calibrate(common_, calibrate_); })));
        calibrateCommand->add_option("-o,--output", calibrate_.output, "the profile's file, JSON");
        calibrateCommand->add_option("--name", calibrate_.name, "the profile's name");
        calibrateCommand->add_flag("--keep", calibrate_.keep, "keep it as this device's own, for foresight");
        calibrateCommand->add_option("--sweeps", calibrate_.sweeps, "how often each workload is timed")
            ->check(CLI::Range(1, 1000));
        auto* sub = json(add("profiles", "the device profiles that are shipped; or one of them as JSON",
                             [this] { return profiles(common_, profileName_, profileOutput_); }));
        sub->add_option("NAME", profileName_, "a shipped profile, or a file");
        sub->add_option("-o,--output", profileOutput_, "write it to a file");
    }

    void add_predict() {
        auto* sub = json(scene(add("predict",
                                   "what the frame would cost on a profile's device: predicted, never measured; --set: "
                                   "what a change would "
                                   "cost, from what is measured now",
                                   [this] { return predict(common_, predict_); }),
                               true));
        sub->add_option("--profile", predict_.profile,
                        "a shipped profile's name, or a file; the kept profile of this device if none is named");
        auto* check =
            sub->add_option("--check", predict_.check, "predict and measure this many varied setups on this device")
                ->check(CLI::Range(1, 10000));
        sub->add_option("--changes", predict_.changes,
                        "foresee this many changes of the setup, then measure them on this device")
            ->check(CLI::Range(1, 10000))
            ->excludes(check);
        sub->add_option("--report", predict_.report,
                        "with --check or --changes: write a page (.md), with --check and its plot (.svg)");
        sub->add_option("--gate", predict_.gate,
                        "with --check or --changes: exit 3 if the median error is over this many percent")
            ->check(positive());
    }

    CLI::App app_{"mirolux-cli: light a scene and measure what it costs, without a window"};
    std::function<int()> run_ = [] { return int(badInput); };
    Common common_;
    RenderArguments render_;
    CompareArguments compare_;
    MeasureArguments measure_;
    PictureArguments picture_;
    TruthArguments truth_;
    BiasArguments bias_;
    SpotsArguments spots_;
    EdgesArguments edges_;
    BakeArguments bake_;
    VisibilityArguments visibility_;
    CLI::App* audit_ = nullptr;
    FloodArguments flood_;
    BlocksArguments blocks_;
    std::string originPicture_;
    int headings_ = 16;
    SheetArguments sheet_;
    ProbesArguments probes_;
    int every_ = 1, rays_ = 64, places_ = 2000, paths_ = 128, reference_ = 0;
    WalkArguments walk_;
    SelftestArguments selftest_;
    JournalArguments journal_;
    CalibrateArguments calibrate_;
    PredictArguments predict_;
    bool markdown_ = false, targetGate_ = false, byObject_ = false;
    int x_ = 0, y_ = 0, ledgerRounds_ = 5, noiseFrames_ = 3000, targetRounds_ = 15;
    std::string pattern_, sort_ = "cost", noiseReport_, profileName_, profileOutput_;
    std::string output_;
};

} // namespace

int main(int argc, char** argv) {
    return CommandLine().run(argc, argv);
}
