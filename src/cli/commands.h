#pragma once
#include "client/worker_client.h"
#include "core/cost/logbook.h"
#include "core/cost/measure.h"
#include "core/cost/selftest.h"
#include "core/scene/project.h"
#include <string>
#include <vector>

// The commands of mirolux-cli. Exit codes: 0 done; 2 bad use or bad input; 3 a budget or a gate was missed; 4 the
// device or the worker failed.
namespace mirolux::cli {

enum Exit { done = 0, badInput = 2, gateMissed = 3, deviceFailed = 4 };

/// Options that scene commands share.
struct Common {
    SceneChoice choice; // --scene, --variant
    std::string scene, target, setupName, size, stereo, camera, eye, aim, device = "auto", json, shaders;
    std::vector<std::string> sets, hide, casts, receives, proxies, moves, clips, doors, rooms;
    double fov = 0, seconds = 0, watchdogSeconds = 120; // a script waits longer than a person
    double memoryLimitMiB = 0;                          // 0: the worker's own
    int frames = 0;                                     // 0: as many as settle the picture
    bool seconds_given = false, starter = false;
};

/// The project with its options applied.
struct Subject {
    OpenProject open;
    Setup setup;
    View view;
};

struct RenderArguments {
    std::string output, layer = "final", light, layersFolder;
    TargetRead target;                // instead of a layer, where one is named
    std::vector<std::string> targets; // by name: of the frame, or of the project
};

struct MeasureArguments {
    std::vector<std::string> against;
    std::vector<std::string> without; // objects that B leaves out
    std::string againstSetup, clock = "auto", csv, html, baseline;
    int rounds = 15;
    double budget = 0, precision = 0, regression = 5; // precision: share; regression: percent
    bool untilClear = false, log = false;
};

struct WalkArguments {
    std::vector<std::string> against;
    std::string walk, againstSetup, csv, gate; // gate: p50, p95, p99, worst, or empty
    std::string note;                          // with log: what this step did
    double every = 2, budget = 0;
    int sweeps = 3, headings = 0;
    bool log = false;
};

struct SelftestArguments {
    int runs = 10, rounds = 30;
    int overheadRounds = 0; // over 0: the clock's own cost alone, in so many paired rounds
    bool longForm = false;
};

struct CalibrateArguments {
    bool keep = false; // as this device's own
    std::string output, name = "this device";
    int sweeps = 7;
};

struct JournalArguments {
    std::string html, csv, kind; // kind: pair or walk, instead of entries
    EntryQuery query;
};

struct PredictArguments {
    std::string profile, report;
    int check = 0;   // setups to predict and measure
    int changes = 0; // changes to foresee and measure
    double gate = 0; // percent; 0: none
};

/// pattern: of objects that are listed; empty: none is.
int info(const Common& common, const std::string& pattern);
int settings(const Common& common, bool markdown);
int plan(const Common& common);
int render(const Common& common, const RenderArguments& arguments);
int measure(const Common& common, const MeasureArguments& arguments);
/// How every target of the project stands; with `gate`, ends with 3 if one is over its budget.
int targets(const Common& common, int rounds, bool gate);
/// The GPU's light lists against the exact reference; ends with 3 if a needed light is missed.
int audit_lists(const Common& common);
struct PictureArguments {
    std::vector<std::string> against;
    std::string againstSetup;
    double gate = -1, threshold = 0.01; // relative
};
/// The picture against the same with other settings; ends with 3 if the mean relative difference is over the gate.
int audit_picture(const Common& common, const PictureArguments& arguments);
/// Shadows against rays, of every `every`th pixel in both directions.
int audit_shadows(const Common& common, int every);
int audit_reflections(const Common& common, int every);
int audit_occlusion(const Common& common, int every, int rays);
struct BiasArguments {
    std::string light;      // empty: all of them, by the setup's values
    double falsely = 0.002; // share of pairs
    int every = 2;          // pixels
};
/// A point light as two, three or four spots: what it gains and what it does to the picture.
struct SpotsArguments {
    std::string light;
    int count = 0; // 0: two, three and four
    int rounds = 9;
};
int spots(const Common& common, const SpotsArguments& arguments);

/// The frame broken into its layers, as one picture or one OpenEXR file of parts.
struct SheetArguments {
    std::string output;
    int columns = 4, width = 320; // of a cell
    bool grey = false;
};
int sheet(const Common& common, const SheetArguments& arguments);

/// Computes something beforehand, beside the project, and goes on where it was stopped.
struct BakeArguments {
    std::string what;
    double seconds = 0;                      // stop after so long; 0: when it is done
    std::optional<float> density{};          // of a light map: texels a metre; none: as the settings say
    std::optional<float> spacing{};          // of probes in space, metres
    std::optional<int> samples{}, bounces{}; // paths a texel; -1: as many as it takes
};
int bake(const Common& common, const BakeArguments& arguments);
/// What each way of keeping a light map takes and loses. reference: paths a pixel of live bounced light that they are
/// held against; 0: they are not.
int audit_light_map(const Common& common, int reference);
/// Grids of probes in space against paths.
int audit_space_probes(const Common& common, int places, int samples);
/// What visibility leaves out against what shows; ends with 3 if something is missing.
struct VisibilityArguments {
    bool along = false;             // the walk, instead of the view
    std::string walk;               // empty: the first one
    std::vector<std::string> kinds; // of visibility, on the same pictures; empty: the setup's
    double every = 0.25;
    int headings = 8;
};
int audit_visibility(const Common& common, const VisibilityArguments& arguments);

/// Ways of smoothing edges against the picture that many samples give.
struct EdgesArguments {
    std::vector<std::string> ways; // empty: all
    int frames = 8;                // of the pan
    double pan = 0.25;             // pixels a frame
    int side = 16;                 // of the truth's grid of samples
    int rounds = 0;                // pairs of frames that are timed for each way; 0: none
};
int audit_edges(const Common& common, const EdgesArguments& arguments);

/// The light of a Blocks stage's cells against a fresh flood; ends with 3 if a cell is wrong.
struct FloodArguments {
    std::string dump; // levels as they are, into this file
    int edits = 0;    // that come before, one by one
    std::uint32_t seed = 1;
};
int audit_flood(const Common& common, const FloodArguments& arguments);
/// Hits of a Blocks stage's rays against a test of every cell; ends with 3 if one is wrong.
int audit_cast(const Common& common, int headings);
/// Directions that cells know against every lamp; the picture: the true specular light, the cells', and their
/// difference.
int audit_origin(const Common& common, const std::string& picture);

/// Writes a Blocks world: of a Solid scene's surfaces, or of a folder of PNG slices.
struct BlocksArguments {
    std::string output;
    double edge = 0.25; // metres
    int materials = 192;
    bool noLamps = false;
};
int make_blocks(const Common& common, const BlocksArguments& arguments);
int export_scene(const Common& common, const std::string& output);

/// Where sun and moon stand, and what of their light comes through the air.
int sky(const Common& common);

/// The bias that misses least shadow while it shadows falsely no more than a share.
int bias(const Common& common, const BiasArguments& arguments);
struct TruthArguments {
    std::string output, layer = "final", light;
    std::uint32_t samples = 64, seed = 1;
    double error = 0, radius = 1, clamp = 0, gate = -1, housing = 0.3;
    int bounces = -1, threads = 0;
    bool smooth = false, noShadows = false, complete = false, skyAround = false, random = false;
    bool fresh = false, forget = false; // begin anew; keep nothing
    bool timeRays = false;              // no picture: how fast its rays are by themselves
};
/// A picture traced by paths, progressively, going on from what is kept of the same question.
int truth_picture(const Common& common, const TruthArguments& arguments);
/// A layer of the frame against its truth; ends with 3 if the mean distance is over the gate.
int audit_truth(const Common& common, const TruthArguments& arguments);
/// Two scene-linear pictures against each other: which pixels differ, and by how much.
struct CompareArguments {
    std::string before, after;
    std::vector<std::string> plus, minus; // added to the second and taken from it first
    int steps = 0;                        // half-float steps that a value may differ by
    double share = 0;                     // of pixels that may differ
};
int compare(const Common& common, const CompareArguments& arguments);
struct ProbesArguments {
    std::string probe; // by name; empty: all of them
    bool cost = false; // measure what a capture would take
};
/// Probes of a project: where they stand, whether they are captured and in what light.
int list_probes(const Common& common, const ProbesArguments& arguments);
/// Captures them with the chosen setup, and keeps the captures beside the project.
int capture_probes(const Common& common, const ProbesArguments& arguments);
int walk(const Common& common, const WalkArguments& arguments);
/// Times known workloads and writes a device profile.
int calibrate(const Common& common, const CalibrateArguments& arguments);
/// The shipped profiles, or one of them as JSON.
int profiles(const Common& common, const std::string& name, const std::string& output);
/// What the frame would cost on a profile's device; or, checked, how well the profile predicts this device.
int predict(const Common& common, const PredictArguments& arguments);
/// The logbook's entries in order, asked by device, scene, setup or target; as text, HTML, CSV, JSON.
int journal(const Common& common, const JournalArguments& arguments);
int selftest(const Common& common, const SelftestArguments& arguments);
/// Records frame times of a setup that never changes, and how often each way of comparing finds a difference in them.
int noise(const Common& common, int frames, const std::string& report);
int pixel(const Common& common, int x, int y);
/// sort: cost, contribution, ratio, name. byObject: of objects in place of lights.
int ledger(const Common& common, const std::string& sort, int rounds, bool byObject);

/// Prints an error in its one form and returns the exit code.
int complain(const Error& error, int code);
/// An Error if one of these files (empty and - are left out) could not be written: asked before minutes of measuring.
Result<void> can_write(const std::vector<std::string>& files);
Result<Subject> subject_of(const Common& common, bool decodeImages = false);
/// The same for what only a Solid scene has; of another stage an Error that says so.
Result<Subject> solid_subject_of(const Common& common, bool decodeImages = false);
/// B of a comparison: the subject's setup or the named one, with `against` applied.
Result<Setup> other_setup(const Subject& subject, const Common& common, const std::vector<std::string>& against,
                          const std::string& againstSetup);
Result<void> apply_sets(Setup& setup, const std::vector<std::string>& sets);
/// Prints `text` for people, or writes `json` where --json says.
int deliver(const Common& common, const std::string& text, const nlohmann::json& json);
WorkerOptions worker_options(const Common& common);
/// Options of a request that times nothing: --frames at the rate of the project's target.
RenderOptions still_options(const Common& common, const Subject& subject);

} // namespace mirolux::cli
