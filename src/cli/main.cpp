#include "cli/commands.h"
#include <CLI/CLI.hpp>

using namespace mirolux::cli;

int main(int argc, char** argv) {
    CLI::App app{"mirolux-cli: light a scene and measure what it costs, without a window"};
    app.require_subcommand(1);
    app.footer("Exit codes: 0 done; 2 bad use or bad input; 3 a budget or a gate was missed; 4 the device or the "
               "worker failed.");
    Common common;
    RenderArguments renderArguments;
    MeasureArguments measureArguments;
    bool markdown = false;

    auto scene_options = [&](CLI::App* sub, bool device) {
        sub->add_option("SCENE", common.scene, "a project (.mirolux) or a scene file (glTF)")->required();
        sub->add_option("--setup", common.setupName, "a setup that the project keeps under this name");
        sub->add_option("--set", common.sets, "key=value; may be repeated")->take_all()->allow_extra_args(false);
        sub->add_option("--size", common.size, "picture size, WxH");
        sub->add_option("--stereo", common.stereo,
                        "off, two-passes or one-pass; the project's target's if none is named")
            ->check(CLI::IsMember({"off", "two-passes", "one-pass"}));
        sub->add_option("--camera", common.camera, "a named camera");
        sub->add_option("--eye", common.eye, "x,y,z of the camera, metres");
        sub->add_option("--aim", common.aim, "x,y,z that it looks at");
        sub->add_option("--fov", common.fov, "vertical field of view, degrees");
        sub->add_option("--seconds", common.seconds, "scene time, moves the moving lights")
            ->each([&](const std::string&) { common.seconds_given = true; });
        if (device) {
            sub->add_option("--device", common.device, "auto or software")->check(CLI::IsMember({"auto", "software"}));
            sub->add_option("--shaders", common.shaders, "a folder whose shader files stand before the built-in ones");
        }
    };
    auto json_option = [&](CLI::App* sub) {
        sub->add_option("--json", common.json, "write JSON to a file, or - for standard output");
    };

    auto* infoCommand = app.add_subcommand("info", "stage, counts, bounds, lights, cameras, walks, warnings");
    scene_options(infoCommand, false);
    json_option(infoCommand);
    auto* settingsCommand =
        app.add_subcommand("settings", "every setting: key, label, range or choices, default, help");
    settingsCommand->add_flag("--markdown", markdown, "the docs page");
    json_option(settingsCommand);
    auto* planCommand = app.add_subcommand("plan", "the frame's passes in order, with reads, writes and expected work");
    scene_options(planCommand, false);
    json_option(planCommand);
    auto* renderCommand = app.add_subcommand("render", "the picture, or a layer of the frame");
    scene_options(renderCommand, true);
    renderCommand->add_option("-o,--output", renderArguments.output,
                              "file: .png after the tone curve; .exr, .hdr scene-linear");
    renderCommand->add_option("--layer", renderArguments.layer,
                              "final, albedo, normal, material, depth, ambient, diffuse, specular, emissive");
    renderCommand->add_option("--layers", renderArguments.layersFolder, "write every layer as PNG into this folder");
    auto* measureCommand = app.add_subcommand(
        "measure", "times of each pass with intervals, work counters; --against for a paired comparison");
    scene_options(measureCommand, true);
    json_option(measureCommand);
    measureCommand->add_option("--against", measureArguments.against, "key=value in which B differs; may be repeated")
        ->take_all()
        ->allow_extra_args(false);
    measureCommand->add_option("--against-setup", measureArguments.againstSetup, "a named setup as B");
    measureCommand->add_option("--rounds", measureArguments.rounds, "how many rounds")->check(CLI::Range(1, 100000));
    measureCommand->add_option("--clock", measureArguments.clock, "auto, fenced or gpu")
        ->check(CLI::IsMember({"auto", "fenced", "gpu"}));
    measureCommand->add_option("--budget", measureArguments.budget, "ms; exit 3 if the p95 is over it")
        ->check(CLI::PositiveNumber);
    measureCommand->add_option("--target", measureArguments.target,
                               "a target of the project: its size, and its budget as the gate");
    measureCommand
        ->add_option("--precision", measureArguments.precision,
                     "end early once the interval's half width is this share of the median, 0.01 for 1 %")
        ->check(CLI::Range(0.0001, 1.0));
    measureCommand->add_flag("--until-clear", measureArguments.untilClear,
                             "with --against: end early once the difference is beyond doubt");
    measureCommand->add_option("--baseline", measureArguments.baseline,
                               "a JSON record of this command from the same device to hold this one against");
    measureCommand
        ->add_option("--regression", measureArguments.regression,
                     "percent: exit 3 if the frame is shown to be slower than the baseline by more")
        ->check(CLI::NonNegativeNumber);
    measureCommand->add_option("--csv", measureArguments.csv, "write the table as CSV");
    measureCommand->add_option("--html", measureArguments.html, "write a self-contained report");

    auto* auditCommand = app.add_subcommand("audit", "a technique held against its exact reference");
    auditCommand->require_subcommand(1);
    auto* auditLists = auditCommand->add_subcommand(
        "lists", "light lists: missed, surplus, overflow, lengths; exit 3 if a light is missed");
    scene_options(auditLists, true);
    json_option(auditLists);
    PictureArguments pictureArguments;
    auto* auditPicture = auditCommand->add_subcommand(
        "picture", "the picture against the same with other settings: differences, PSNR; --gate for exit 3");
    scene_options(auditPicture, true);
    json_option(auditPicture);
    auditPicture->add_option("--against", pictureArguments.against, "key=value in which B differs; may be repeated")
        ->take_all()
        ->allow_extra_args(false);
    auditPicture->add_option("--against-setup", pictureArguments.againstSetup, "a named setup as B");
    auditPicture
        ->add_option("--gate", pictureArguments.gate, "exit 3 if the mean difference is over this share of A's mean")
        ->check(CLI::NonNegativeNumber);
    auditPicture
        ->add_option("--threshold", pictureArguments.threshold,
                     "relative difference from which a pixel counts as different")
        ->check(CLI::PositiveNumber);
    int x = 0, y = 0, ledgerRounds = 5;
    auto* pixelCommand = app.add_subcommand("pixel", "the pixel account: why a pixel has its value, light by light");
    scene_options(pixelCommand, true);
    json_option(pixelCommand);
    pixelCommand->add_option("X", x, "column")->required();
    pixelCommand->add_option("Y", y, "row from the top")->required();
    std::string sort = "cost";
    auto* ledgerCommand = app.add_subcommand("ledger", "what each light costs and gives in this view");
    scene_options(ledgerCommand, true);
    json_option(ledgerCommand);
    ledgerCommand->add_option("--sort", sort, "cost, contribution, ratio or name")
        ->check(CLI::IsMember({"cost", "contribution", "ratio", "name"}));
    ledgerCommand->add_option("--rounds", ledgerRounds, "frames that the shading time is the median of")
        ->check(CLI::Range(1, 1000));

    WalkArguments walkArguments;
    auto* walkCommand =
        app.add_subcommand("walk", "cost along a recorded camera path: percentiles, worst place; --gate for exit 3");
    scene_options(walkCommand, true);
    json_option(walkCommand);
    walkCommand->add_option("--walk", walkArguments.walk, "the walk's name; the project's first if none is named");
    walkCommand->add_option("--every", walkArguments.every, "metres between places")->check(CLI::Range(0.05, 1000.0));
    walkCommand->add_option("--sweeps", walkArguments.sweeps, "how often the whole walk is gone")
        ->check(CLI::Range(1, 1000));
    walkCommand
        ->add_option("--look-around", walkArguments.headings,
                     "directions to look in at each place, instead of the walk's own")
        ->check(CLI::Range(2, 64));
    walkCommand->add_option("--against", walkArguments.against, "key=value in which B differs; may be repeated")
        ->take_all()
        ->allow_extra_args(false);
    walkCommand->add_option("--against-setup", walkArguments.againstSetup, "a named setup as B");
    walkCommand->add_option("--budget", walkArguments.budget, "ms; the project's chosen target's if none is given")
        ->check(CLI::PositiveNumber);
    walkCommand->add_option("--gate", walkArguments.gate, "exit 3 if this is over the budget: p50, p95, p99 or worst")
        ->check(CLI::IsMember({"p50", "p95", "p99", "worst"}));
    walkCommand->add_flag("--log", walkArguments.log, "keep it in the project's logbook");
    walkCommand->add_option("--csv", walkArguments.csv, "write a row a place as CSV");
    SelftestArguments selftestArguments;
    auto* selftestCommand = app.add_subcommand(
        "selftest", "clocks, A against A, an injected slowdown; exit 3 when measurements cannot be trusted");
    scene_options(selftestCommand, true);
    json_option(selftestCommand);
    selftestCommand->add_option("--runs", selftestArguments.runs, "paired measurements of each kind")
        ->check(CLI::Range(5, 10000));
    selftestCommand->add_option("--rounds", selftestArguments.rounds, "rounds of each")->check(CLI::Range(5, 1000));
    selftestCommand
        ->add_option("--overhead", selftestArguments.overheadRounds,
                     "only what the clock costs whole frames, in so many paired rounds; exit 3 if over 1 % is shown")
        ->check(CLI::Range(6, 100000));
    selftestCommand->add_flag("--long", selftestArguments.longForm, "200 runs of each kind");

    measureCommand->add_flag("--log", measureArguments.log, "keep it in the project's logbook, round by round");
    int noiseFrames = 3000;
    std::string noiseReport;
    auto* noiseCommand = app.add_subcommand(
        "noise", "records frame times of a setup that never changes, and counts the false alarms of ways to compare");
    scene_options(noiseCommand, true);
    json_option(noiseCommand);
    noiseCommand->add_option("--frames", noiseFrames, "how many")->check(CLI::Range(100, 10000000));
    noiseCommand->add_option("--report", noiseReport, "write the page, .md");
    JournalArguments journalArguments;
    auto* journalCommand =
        app.add_subcommand("journal", "the logbook's measured states in order: what changed and what it gained");
    journalCommand->add_option("SCENE", common.scene, "a project (.mirolux)")->required();
    json_option(journalCommand);
    journalCommand->add_option("--html", journalArguments.html, "write a self-contained report that prints well");
    journalCommand->add_option("--csv", journalArguments.csv, "write a row an entry as CSV");
    journalCommand->add_option("--on-device", journalArguments.query.device,
                               "only entries of this device, as the driver names it");
    journalCommand->add_option("--scene-digest", journalArguments.query.sceneDigest,
                               "only entries of a scene file of this digest");
    journalCommand->add_option("--setup-digest", journalArguments.query.setupDigest, "only entries of this setup");
    journalCommand->add_option("--target", journalArguments.query.targetName, "only entries of this target");
    journalCommand
        ->add_option("--kind", journalArguments.kind,
                     "instead of entries: pair, the paired comparisons, or walk, the walks that were logged")
        ->check(CLI::IsMember({"pair", "walk"}));
    journalCommand->add_option("--limit", journalArguments.query.limit, "the newest so many")
        ->check(CLI::Range(1, 100000000));
    int targetRounds = 15;
    bool targetGate = false;
    auto* targetsCommand = app.add_subcommand(
        "targets", "how every target of the project stands: measured here, or predicted for its device profile");
    scene_options(targetsCommand, true);
    json_option(targetsCommand);
    targetsCommand->add_option("--rounds", targetRounds, "how many rounds for a measured one")
        ->check(CLI::Range(1, 100000));
    targetsCommand->add_flag("--gate", targetGate, "exit 3 if a target is over its budget");
    CalibrateArguments calibrateArguments;
    auto* calibrateCommand =
        app.add_subcommand("calibrate", "times known workloads on this device and fits a device profile to them");
    calibrateCommand->add_option("-o,--output", calibrateArguments.output, "the profile's file, JSON");
    calibrateCommand->add_option("--name", calibrateArguments.name, "the profile's name");
    calibrateCommand->add_option("--sweeps", calibrateArguments.sweeps, "how often each workload is timed")
        ->check(CLI::Range(1, 1000));
    calibrateCommand->add_option("--device", common.device, "auto or software")
        ->check(CLI::IsMember({"auto", "software"}));
    json_option(calibrateCommand);
    std::string profileName, profileOutput;
    auto* profilesCommand =
        app.add_subcommand("profiles", "the device profiles that are shipped; or one of them as JSON");
    profilesCommand->add_option("NAME", profileName, "a shipped profile, or a file");
    profilesCommand->add_option("-o,--output", profileOutput, "write it to a file");
    json_option(profilesCommand);
    PredictArguments predictArguments;
    auto* predictCommand =
        app.add_subcommand("predict", "what the frame would cost on a profile's device: predicted, never measured");
    scene_options(predictCommand, true);
    json_option(predictCommand);
    predictCommand->add_option("--profile", predictArguments.profile, "a shipped profile's name, or a file")
        ->required();
    predictCommand
        ->add_option("--check", predictArguments.check, "predict and measure this many varied setups on this device")
        ->check(CLI::Range(1, 10000));
    predictCommand->add_option("--report", predictArguments.report,
                               "with --check: write a page (.md) and its plot (.svg)");
    predictCommand
        ->add_option("--gate", predictArguments.gate,
                     "with --check: exit 3 if the median error is over this many percent")
        ->check(CLI::PositiveNumber);

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? done : badInput;
    }
    if (*infoCommand) return info(common);
    if (*settingsCommand) return settings(common, markdown);
    if (*planCommand) return plan(common);
    if (*renderCommand) return render(common, renderArguments);
    if (*auditLists) return audit_lists(common);
    if (*auditPicture) return audit_picture(common, pictureArguments);
    if (*noiseCommand) return noise(common, noiseFrames, noiseReport);
    if (*journalCommand) return journal(common, journalArguments);
    if (*targetsCommand) return targets(common, targetRounds, targetGate);
    if (*calibrateCommand) return calibrate(common, calibrateArguments);
    if (*profilesCommand) return profiles(common, profileName, profileOutput);
    if (*predictCommand) return predict(common, predictArguments);
    if (*walkCommand) return walk(common, walkArguments);
    if (*selftestCommand) return selftest(common, selftestArguments);
    if (*pixelCommand) return pixel(common, x, y);
    if (*ledgerCommand) return ledger(common, sort, ledgerRounds);
    return measure(common, measureArguments);
}
