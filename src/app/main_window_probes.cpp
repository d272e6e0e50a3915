#include "app/main_window.h"
#include "app/probe_row.h"
#include "core/ambient/probes.h"
#include <QDir>
#include <QStandardPaths>

// Probes in the window: when they are captured, and what is told of it.
namespace mirolux::app {

/// Captures of a project that was never saved lie with what is kept for it.
static std::filesystem::path project_of_captures(const Project& p, const std::string& digest) {
    if (!p.path.empty()) return p.path;
    return (QStandardPaths::writableLocation(QStandardPaths::GenericCacheLocation) + "/mirolux/probes/" +
            QString::fromStdString(digest) + ".mirolux")
        .toStdString();
}

void MainWindow::connect_probes() {
    probeRow_ = new ProbeRow(document_, *selection_, this);
    settingsBenches_["Ambient"]->add_row(probeRow_);
    connect(probeRow_, &ProbeRow::capture_wanted, this, &MainWindow::capture_probes);
    connect(probeRow_, &ProbeRow::shown, this, [this] { rest_probes(bridge_->resting()); });
    connect(bridge_.get(), &RenderBridge::resting_changed, this, &MainWindow::rest_probes);
    connect(bridge_.get(), &RenderBridge::captured, this,
            [this](const std::vector<Document::TakenCapture>& captures, double ms) {
                capturing_ = false;
                probeRow_->set_capturing(false);
                if (!captures.empty()) probeRow_->set_cost(ms);
                document_.take_captures(captures);
            });
    connect(bridge_.get(), &RenderBridge::gathering, this, [this](int done, int all) {
        gathering_ = all > 0 ? tr("gathering mirrored light: %1 %").arg(100 * done / all) : QString();
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::capture_failed, this, [this](const Error& e) {
        captureRefused_ = true; // not again by itself
        notice_ = tr("no capture: %1").arg(QString::fromStdString(to_text(e)));
        refresh_status();
    });
    connect(bridge_.get(), &RenderBridge::capture_cost_known, probeRow_,
            [this](double ms) { probeRow_->set_cost(ms); });
    connect(&document_, &Document::opened, this, [this] {
        captureCostOf_.clear();
        captureRefused_ = false;
    });
}

/// ids: Probe::id; none: all that are switched on.
void MainWindow::capture_probes(const std::vector<int>& ids) {
    if (!document_.is_open() || !document_.is_solid() || capturing_) return;
    std::vector<Probe> probes;
    for (const Probe& p : document_.project().probes)
        if (ids.empty() ? p.enabled : std::find(ids.begin(), ids.end(), p.id) != ids.end()) probes.push_back(p);
    if (probes.empty()) {
        notice_ = tr("there is no probe to capture: place one at the Ambient station");
        return refresh_status();
    }
    capturing_ = true;
    captureRefused_ = false;
    probeRow_->set_capturing(true);
    bridge_->capture(probes, project_of_captures(document_.project(), document_.scene_digest()));
}

/// The picture rests: probes whose light has changed are captured, those in turn one at a time; and while their bench
/// is looked at, what a capture takes is found out.
void MainWindow::rest_probes(bool resting) {
    if (!resting || capturing_ || bridge_->measuring() || !document_.is_open() || !document_.is_solid() ||
        !uses_probes(document_.project().setup))
        return;
    const Project& p = document_.project();
    const Scene scene = document_.scene();
    std::vector<int> stale;
    std::optional<int> turn;
    const std::size_t first = nextInTurn_;
    for (std::size_t i = 0; i < p.probes.size() && !captureRefused_; ++i) {
        const Probe& probe = p.probes[(i + first) % p.probes.size()];
        if (!probe.enabled || probe.recapture == Recapture::byHand ||
            probe.captured == capture_digest(scene, p.setup, p.view, probe))
            continue;
        if (probe.recapture == Recapture::changed)
            stale.push_back(probe.id);
        else if (!turn) {
            turn = probe.id;
            nextInTurn_ = (i + first) % p.probes.size() + 1;
        }
    }
    if (turn) stale.push_back(*turn);
    if (!stale.empty()) return capture_probes(stale);
    const Probe* chosen = document_.probe(probeRow_->chosen());
    if (!chosen || !probeRow_->isVisible()) return;
    const std::string of = capture_digest(scene, p.setup, p.view, *chosen) + p.setup.choice("path.kind");
    if (std::exchange(captureCostOf_, of) != of) bridge_->ask_capture_cost(*chosen);
}

} // namespace mirolux::app
