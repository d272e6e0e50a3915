#include "app/main_window.h"
#include "app/theme.h"
#include <QAction>
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
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

int main(int argc, char** argv) {
    const double loaded = process_age_ms();
    // Without a session bus Qt would have one launched for the display and wait for it; on a bare X server that wait
    // may not end.
    if (!qEnvironmentVariableIsSet("DBUS_SESSION_BUS_ADDRESS") && !qEnvironmentVariableIsSet("XDG_RUNTIME_DIR"))
        qputenv("DBUS_SESSION_BUS_ADDRESS", "disabled:");
    QApplication app(argc, argv);
    QApplication::setApplicationName("Mirolux");
    QCommandLineParser options;
    options.setApplicationDescription("Mirolux: light a scene, see it, and measure what it costs.");
    options.addHelpOption();
    options.addPositionalArgument("file", "a project (.mirolux) or a glTF 2.0 scene; the demo if none is named");
    const QCommandLineOption startup("startup-times", "Print the time of each part of the start.");
    const QCommandLineOption themeOption("theme", "dark or light", "theme", "dark");
    const QCommandLineOption shaders("shaders", "A folder whose shader files stand before the built-in ones.",
                                     "folder");
    const QCommandLineOption shot("screenshot", "Save the window as PNG once it has settled, and quit.", "file");
    const QCommandLineOption station("station", "The station to start at.", "name", "Scene");
    const QCommandLineOption light("select-light", "Select the light of this name.", "name");
    const QCommandLineOption pass("select-pass", "Select the pass of this name.", "name");
    const QCommandLineOption camera("camera", "Look through the camera of this name.", "name");
    const QCommandLineOption layer("layer", "Hold this layer.", "name");
    const QCommandLineOption sets("set", "Change a setting: key=value; may be repeated.", "key=value");
    const QCommandLineOption cut(
        "cut", "Show this cut of the cost deck: pass, light, region or walk (which is measured).", "name", "pass");
    const QCommandLineOption against("against", "Take the state as B, then change A: key=value.", "key=value");
    const QCommandLineOption command("command", "Run the command of this name before the window is saved.", "name");
    const QCommandLineOption worst("worst-tile", "Show the worst tile of the light lists, once they are audited.");
    const QCommandLineOption pixel("pixel", "Hold the account of this pixel.", "x,y");
    const QCommandLineOption log("log", "Log the state once it has settled.");
    options.addOptions({startup, themeOption, shaders, shot, station, light, pass, camera, layer, sets, cut, against,
                        command, worst, pixel, log});
    options.process(app);
    use_theme(app, options.value(themeOption) != "light");
    const double ready = process_age_ms();

    WorkerOptions worker;
    worker.shaderFolder = options.value(shaders).toStdString();
    MainWindow window(worker);
    window.show();
    const double shown = process_age_ms();
    QString file = options.positionalArguments().value(0);
    if (file.isEmpty())
        for (const QString& place : {QApplication::applicationDirPath() + "/../demo/kestrel-quay.mirolux",
                                     QApplication::applicationDirPath() + "/../share/mirolux/kestrel-quay.mirolux"})
            if (QFile::exists(place)) {
                file = QDir::cleanPath(place);
                break;
            }
    double opened = 0;
    bool told = !options.isSet(startup);
    QObject::connect(&window.viewport(), &Viewport::painted_picture, &window, [&] {
        if (told) return;
        told = true;
        const double painted = process_age_ms();
        std::printf("process loaded        %7.0f ms\nQt ready              %7.0f ms\nwindow shown          %7.0f "
                    "ms\nproject opened        %7.0f ms\nfirst picture painted %7.0f ms\n",
                    loaded, ready, shown, opened, painted);
        std::fflush(stdout);
    });
    // The window is on screen before the scene is read.
    QTimer::singleShot(0, &window, [&] {
        if (!file.isEmpty() && window.open(file, options.isSet(shot) ? std::optional<bool>(false) : std::nullopt)) {
            const Project& p = window.document().project();
            for (const Camera& c : p.cameras)
                if (c.name == options.value(camera).toStdString()) window.document().move_camera(c);
            for (const QString& set : options.values(sets)) {
                Setup probe = p.setup;
                const std::string key = set.section('=', 0, 0).toStdString();
                auto ok = probe.set_text(key, set.section('=', 1).toStdString());
                if (ok) ok = window.document().set(key, probe.get(key));
                if (!ok) std::fprintf(stderr, "mirolux: %s\n", to_text(ok.error()).c_str());
            }
            window.set_station(options.value(station));
            for (const Light& l : p.lights)
                if (l.name == options.value(light).toStdString()) {
                    window.select_light(l.id);
                    break;
                }
            window.deck().set_cut(options.value(cut) == "light"    ? CostDeck::Cut::light
                                  : options.value(cut) == "region" ? CostDeck::Cut::region
                                  : options.value(cut) == "walk"   ? CostDeck::Cut::walk
                                                                   : CostDeck::Cut::pass);
            if (options.isSet(pass)) window.select_pass(options.value(pass));
            if (options.isSet(layer)) window.findChild<LayerStrip*>()->set_held(options.value(layer));
        }
        opened = process_age_ms();
    });
    bool logWanted = options.isSet(log);
    // A picture of the window is taken when what it is to show is in.
    const bool byLight = options.value(cut) == "light",
               byRegion = options.isSet(worst) || options.value(cut) == "region";
    if (options.isSet(worst))
        QObject::connect(&window, &MainWindow::inspected, &window, [&] { window.show_worst(true); });
    if (options.isSet(pixel))
        QObject::connect(&window, &MainWindow::settled_down, &window, [&] {
            QTimer::singleShot(1200, &window, [&] {
                window.hold_pixel(QPoint(options.value(pixel).section(',', 0, 0).toInt(),
                                         options.value(pixel).section(',', 1).toInt()));
            });
        });
    const bool overWalk = options.value(cut) == "walk";
    if (overWalk)
        QObject::connect(&window, &MainWindow::settled_down, &window, [&, begun = false]() mutable {
            if (!std::exchange(begun, true)) window.command("measure walk")->trigger();
        });
    const bool paired = options.isSet(against);
    if (paired) {
        QObject::connect(&window, &MainWindow::settled_down, &window, [&, begun = false]() mutable {
            if (std::exchange(begun, true)) return;
            const QString value = options.value(against);
            Setup a = window.document().project().setup;
            if (!a.set_text(value.section('=', 0, 0).toStdString(), value.section('=', 1).toStdString())) return;
            window.command("take b")->trigger();
            (void)window.document().set(value.section('=', 0, 0).toStdString(),
                                        a.get(value.section('=', 0, 0).toStdString()));
        });
        QObject::connect(&window, &MainWindow::difference_reported, &window, [&, begun = false]() mutable {
            if (!std::exchange(begun, true)) window.command("compare")->trigger();
        });
    }
    const auto last = paired                 ? &MainWindow::pair_reported
                      : overWalk             ? &MainWindow::walk_shown
                      : options.isSet(pixel) ? &MainWindow::pixel_reported
                      : byLight              ? &MainWindow::ledger_shown
                      : byRegion             ? &MainWindow::inspected
                                             : &MainWindow::settled_down;
    if (options.isSet(shot) || logWanted)
        QObject::connect(&window, last, &window, [&] {
            if (logWanted) {
                logWanted = false;
                window.log_state(7);
                return;
            }
            if (!options.isSet(shot)) return;
            if (QAction* action = window.command(options.value(command))) action->trigger();
            auto* poll = new QTimer(&window); // what the command began to measure is waited for
            poll->start(200);
            QObject::connect(poll, &QTimer::timeout, &window, [&, poll, rest = 0]() mutable {
                if (window.bridge().measuring())
                    rest = 15; // and then a while for the picture and the tape to come back
                if (rest-- > 0) return;
                poll->stop();
                const bool ok = window.grab().save(options.value(shot));
                if (!ok) std::fprintf(stderr, "mirolux: %s could not be written\n", qPrintable(options.value(shot)));
                window.document().forget_autosave();
                QApplication::exit(ok ? 0 : 2);
            });
        });
    return QApplication::exec();
}
