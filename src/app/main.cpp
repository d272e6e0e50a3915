#include "app/main_window.h"
#include "app/theme.h"
#include "app/truth_engine.h"
#include <QAction>
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QTimer>
#include <cstdio>
#include <ctime>
#include <fstream>
#include <sstream>
#include <unistd.h>

using namespace mirolux;
using namespace mirolux::app;

/// Milliseconds since the kernel started this process (from /proc), so that loading of libraries counts too.
static double process_age_ms() {
    std::ifstream in("/proc/self/stat");
    const std::string text((std::istreambuf_iterator<char>(in)), {});
    const auto after = text.rfind(')');
    if (after == std::string::npos) return 0;
    std::istringstream fields(text.substr(after + 2));
    std::string field;
    for (int i = 3; i <= 22; ++i)
        fields >> field; // field 22: start time in clock ticks since boot
    timespec now{};
    clock_gettime(CLOCK_BOOTTIME, &now);
    return (static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec) -
            std::stod(field) / static_cast<double>(sysconf(_SC_CLK_TCK))) *
           1000;
}

namespace {

/// What the command line asks for.
struct Start {
    QString file, theme, shaders, shot, station, light, objects, about, pass, camera, layer, target, view, cut, against,
        command, pixel, loupe, consider, truth, setup, piece;
    QStringList sets;
    bool times = false, worst = false, log = false;
};

Start read_start(const QApplication& app) {
    QCommandLineParser options;
    options.setApplicationDescription("Mirolux: light a scene, see it, and measure what it costs.");
    options.addHelpOption();
    options.addPositionalArgument("file", "a project (.mirolux) or a glTF 2.0 scene; the demo if none is named");
    Start start;
    struct Text {
        QString Start::*to;
        const char *name, *help, *value, *preset;
    };
    static const Text texts[] = {
        {&Start::theme, "theme", "dark or light", "theme", "dark"},
        {&Start::shaders, "shaders", "A folder whose shader files stand before the built-in ones.", "folder", ""},
        {&Start::shot, "screenshot", "Save the window as PNG once it has settled, and quit.", "file", ""},
        {&Start::station, "station", "The station to start at.", "name", "Scene"},
        {&Start::light, "select-light",
         "Select the light of this name (a cheap one too), or those that a pattern with * finds.", "name", ""},
        {&Start::about, "help-about", "Show the help of the control or the setting of this name.", "name", ""},
        {&Start::objects, "select-objects", "Select the objects whose name or id matches.", "pattern", ""},
        {&Start::piece, "select-piece", "Select the sprite or wall of this name on a flat stage.", "name", ""},
        {&Start::pass, "select-pass", "Select the pass of this name.", "name", ""},
        {&Start::camera, "camera", "Look through the camera of this name.", "name", ""},
        {&Start::layer, "layer", "Hold this layer.", "name", ""},
        {&Start::target, "target", "Hold this target, as a pass leaves it if one is named: target[,pass].", "name", ""},
        {&Start::view, "view", "What stands in the middle: picture, journal, anatomy, sheet or outside.", "name",
         "picture"},
        {&Start::cut, "cut", "Show this cut of the cost deck: pass, light, region or walk (which is measured).", "name",
         "pass"},
        {&Start::against, "against", "Take the state as B, then change A: key=value.", "key=value", ""},
        {&Start::command, "command",
         "Run the command of this name, or several with commas, before the window is saved.", "name", ""},
        {&Start::consider, "consider", "Rest on this choice of a setting until it is foreseen: key=value.", "key=value",
         ""},
        {&Start::setup, "setup", "Take the setup that the project keeps under this name.", "name", ""},
        {&Start::truth, "truth", "Show this layer of truth beside the frame.", "layer", ""},
        {&Start::pixel, "pixel", "Hold the account of this pixel.", "x,y", ""},
        {&Start::loupe, "loupe", "Show the loupe at this pixel.", "x,y", ""}};
    struct Switch {
        bool Start::*to;
        const char *name, *help;
    };
    static const Switch switches[] = {
        {&Start::times, "startup-times", "Print the time of each part of the start."},
        {&Start::worst, "worst-tile", "Show the worst tile of the light lists, once they are audited."},
        {&Start::log, "log", "Log the state once it has settled."}};
    for (const Text& t : texts)
        options.addOption({t.name, t.help, t.value, t.preset});
    for (const Switch& s : switches)
        options.addOption({s.name, s.help});
    options.addOption({"set", "Change a setting: key=value; may be repeated.", "key=value"});
    options.process(app);
    for (const Text& t : texts)
        start.*t.to = options.value(t.name);
    for (const Switch& s : switches)
        start.*s.to = options.isSet(s.name);
    start.sets = options.values("set");
    start.file = options.positionalArguments().value(0);
    const QString folder = QApplication::applicationDirPath();
    for (const QString& place :
         {folder + "/../demo/kestrel-quay.mirolux", folder + "/../share/mirolux/kestrel-quay.mirolux"})
        if (start.file.isEmpty() && QFile::exists(place)) start.file = QDir::cleanPath(place);
    return start;
}

/// Changes one setting as `key=value` says; what is wrong with it goes to standard error.
void set_as_text(MainWindow& window, const QString& text) {
    Setup probe = window.document().project().setup;
    const std::string key = text.section('=', 0, 0).toStdString();
    auto ok = probe.set_text(key, text.section('=', 1).toStdString());
    if (ok) ok = window.document().set(key, probe.get(key));
    if (!ok) std::fprintf(stderr, "mirolux: %s\n", to_text(ok.error()).c_str());
}

void open_as_asked(MainWindow& window, const Start& start) {
    if (start.file.isEmpty() ||
        !window.open(start.file, start.shot.isEmpty() ? std::nullopt : std::optional<bool>(false)))
        return;
    const Project& p = window.document().project();
    for (const Camera& c : p.cameras)
        if (c.name == start.camera.toStdString()) window.document().move_camera(c);
    for (const auto& [name, setup] : p.setups)
        if (name == start.setup.toStdString())
            window.document().edit(start.setup, [setup = setup](Project& project) { project.setup = setup; });
    for (const QString& set : start.sets)
        set_as_text(window, set);
    window.set_station(start.station);
    std::vector<int> lights;
    for (const Light& l : p.lights)
        if (!start.light.isEmpty() && (l.name == start.light.toStdString() ||
                                       (start.light.contains('*') && name_matches(l.name, start.light.toStdString()))))
            lights.push_back(l.id);
    if (!lights.empty()) window.selection().set_lights(lights);
    for (const CheapLight& l : p.cheapLights)
        if (l.name == start.light.toStdString() && lights.empty()) {
            window.show_cheap_lights(true);
            window.selection().set_cheap(l.id);
        }
    if (const flat::WorldPtr& stage = p.flat; stage && !start.piece.isEmpty()) {
        for (const flat::Wall& w : stage->walls)
            if (w.name == start.piece.toStdString()) window.selection().set_piece({flat::PieceKind::wall, w.id});
        for (const flat::Sprite& s : stage->sprites)
            if (s.name == start.piece.toStdString()) window.selection().set_piece({flat::PieceKind::sprite, s.id});
    }
    if (!start.objects.isEmpty())
        window.selection().set_objects(objects_like(*window.document().asset(), start.objects.toStdString()));
    window.deck().set_cut(start.cut == "light"    ? CostDeck::Cut::light
                          : start.cut == "region" ? CostDeck::Cut::region
                          : start.cut == "walk"   ? CostDeck::Cut::walk
                                                  : CostDeck::Cut::pass);
    if (!start.pass.isEmpty()) window.select_pass(start.pass);
    if (!start.about.isEmpty()) window.show_help(window.findChild<QWidget*>(start.about));
    if (start.view == "anatomy") window.show_anatomy(true);
    if (start.view == "journal") window.show_journal(true);
    if (start.view == "sheet") window.show_sheet(true);
    if (start.view == "outside") window.show_outside(true);
    if (!start.target.isEmpty()) { // names may hold commas: the pass is behind the last one that makes one
        const QString pass = start.target.section(',', -1), name = start.target.section(',', 0, -2);
        const FramePlan plan =
            plan_frame(window.document().scene(), p.setup, on_target(p.view, window.document().target()));
        const bool whole = plan.resource(start.target.toStdString());
        window.hold_target({(whole ? start.target : name).toStdString(), whole ? "" : pass.toStdString()});
    }
    if (!start.layer.isEmpty()) window.findChild<LayerStrip*>()->set_held(start.layer);
}

/// Runs something at the first of a signal only.
template <class Signal, class Action>
void once(MainWindow& window, Signal signal, Action action) {
    QObject::connect(&window, signal, &window, [action, begun = false]() mutable {
        if (!std::exchange(begun, true)) action();
    });
}

/// What is asked for beyond the opened state is begun when the window has settled.
void begin_what_is_asked(MainWindow& window, const Start& start) {
    if (start.worst) QObject::connect(&window, &MainWindow::inspected, &window, [&window] { window.show_worst(true); });
    if (!start.pixel.isEmpty())
        QObject::connect(&window, &MainWindow::settled_down, &window, [&window, &start] {
            QTimer::singleShot(1200, &window, [&window, &start] {
                window.hold_pixel(QPoint(start.pixel.section(',', 0, 0).toInt(), start.pixel.section(',', 1).toInt()));
            });
        });
    if (start.cut == "walk")
        once(window, &MainWindow::settled_down, [&window] { window.command("measure walk")->trigger(); });
    if (!start.consider.isEmpty())
        QObject::connect(&window, &MainWindow::settled_down, &window, [&window, &start] {
            Setup probe = window.document().project().setup;
            const std::string key = start.consider.section('=', 0, 0).toStdString();
            if (probe.set_text(key, start.consider.section('=', 1).toStdString()))
                window.document().consider(key, probe.get(key));
        });
    if (start.against.isEmpty()) return;
    once(window, &MainWindow::settled_down, [&window, &start] {
        window.command("take b")->trigger();
        set_as_text(window, start.against);
    });
    once(window, &MainWindow::difference_reported, [&window] { window.command("compare")->trigger(); });
}

/// Saves the window once what a command began to measure is in, and the picture and the tape have come back.
void save_picture(MainWindow& window, const Start& start) {
    if (const auto layer = truth::layer_of(start.truth.toStdString())) {
        window.show_truth(true);
        window.choose_truth(*layer);
    }
    if (!start.loupe.isEmpty()) {
        window.bridge().set_values_wanted(true);
        window.viewport().pin_loupe({start.loupe.section(',', 0, 0).toInt(), start.loupe.section(',', 1).toInt()});
    }
    for (const QString& name : start.command.split(','))
        if (QAction* action = window.command(name)) action->trigger();
    auto* poll = new QTimer(&window);
    poll->start(200);
    const auto truth_is_young = [&window] {
        const auto& t = window.truth_state();
        return window.truth_shown() &&
               (!t || t->samples < 64 || (!t->distance && !truth::frame_layer(t->layer).empty()));
    };
    QObject::connect(poll, &QTimer::timeout, &window,
                     [&window, &start, truth_is_young, poll, rest = 0, waits = 0, captured = false]() mutable {
                         const bool captures = window.capturing() || (captured && !window.bridge().resting());
                         captured = captured || window.capturing() || window.baking();
                         if (window.bridge().measuring() || window.auditing() || window.finishing() ||
                             window.baking() || (captures && waits++ < 900) ||
                             (window.anatomy_shown() && window.anatomy().thumbnails() == 0) ||
                             (!start.consider.isEmpty() && !window.deck().tape().ghost() && waits++ < 150) ||
                             (truth_is_young() && waits++ < 900) ||
                             (!start.loupe.isEmpty() && window.viewport().loupe_words().isEmpty() && waits++ < 150))
                             rest = 15;
                         if (rest-- > 0) return;
                         poll->stop();
                         const bool ok = window.grab().save(start.shot);
                         if (!ok) std::fprintf(stderr, "mirolux: %s could not be written\n", qPrintable(start.shot));
                         window.document().forget_autosave();
                         QApplication::exit(ok ? 0 : 2);
                     });
}

/// Logs the state and takes the picture when what it is to show is in.
void end_as_asked(MainWindow& window, const Start& start) {
    if (start.shot.isEmpty() && !start.log) return;
    const auto last = !start.against.isEmpty() ? &MainWindow::pair_reported
                      : start.cut == "walk"    ? &MainWindow::walk_shown
                      : !start.pixel.isEmpty() ? &MainWindow::pixel_reported
                      : start.cut == "light" || !start.objects.isEmpty() || start.command == "objects"
                          ? &MainWindow::ledger_shown
                      : start.worst || start.cut == "region" ? &MainWindow::inspected
                      : start.view == "anatomy"              ? &MainWindow::anatomy_drawn
                      : start.view == "sheet"                ? &MainWindow::sheet_drawn
                      : start.view == "outside"              ? &MainWindow::outside_drawn
                                                             : &MainWindow::settled_down;
    QObject::connect(&window, last, &window, [&window, &start, toLog = start.log, saving = false]() mutable {
        if (std::exchange(toLog, false))
            window.log_state(7);
        else if (!start.shot.isEmpty() && !std::exchange(saving, true)) // its command may bring the same signal again
            save_picture(window, start);
    });
}

} // namespace

int main(int argc, char** argv) {
    const double loaded = process_age_ms();
    // Without a session bus Qt would have one launched for the display and wait for it; on a bare X server that wait
    // may not end.
    if (!qEnvironmentVariableIsSet("DBUS_SESSION_BUS_ADDRESS") && !qEnvironmentVariableIsSet("XDG_RUNTIME_DIR"))
        qputenv("DBUS_SESSION_BUS_ADDRESS", "disabled:");
    QApplication app(argc, argv);
    QApplication::setApplicationName("Mirolux");
    QApplication::setOrganizationName("Mirolux");
    const Start start = read_start(app);
    use_theme(app, start.theme != "light");
    const double ready = process_age_ms();
    WorkerOptions worker;
    worker.shaderFolder = start.shaders.toStdString();
    MainWindow window(worker);
    window.show();
    const double shown = process_age_ms();
    double opened = 0;
    if (start.times)
        QObject::connect(
            &window.viewport(), &Viewport::painted_picture, &window,
            [&] {
                std::printf("process loaded        %7.0f ms\nQt ready              %7.0f ms\nwindow shown          "
                            "%7.0f ms\nproject opened        %7.0f ms\nfirst picture painted %7.0f ms\n",
                            loaded, ready, shown, opened, process_age_ms());
                std::fflush(stdout);
            },
            Qt::SingleShotConnection);
    // The window is on screen before the scene is read.
    QTimer::singleShot(0, &window, [&] {
        open_as_asked(window, start);
        opened = process_age_ms();
    });
    begin_what_is_asked(window, start);
    end_as_asked(window, start);
    return QApplication::exec();
}
