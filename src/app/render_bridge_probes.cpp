#include "app/render_bridge.h"
#include "core/ambient/probe_capture.h"
#include <QMetaObject>

// Captures of probes, between other pictures.
namespace mirolux::app {

void RenderBridge::capture(const std::vector<Probe>& probes, const std::filesystem::path& project) {
    if (probes.empty() || !document_.is_open()) return;
    renderer_->run([this, probes, project, r = request_for(Stage::full)](RenderSession& session) {
        std::vector<Document::TakenCapture> taken;
        Result<void> good;
        QElapsedTimer clock;
        clock.start();
        for (const Probe& p : probes) {
            const auto faces = mirolux::capture(session, r.scene, r.setup, r.view, p);
            const std::filesystem::path file = probe_file(project, p);
            good = faces ? write_probe(file, *faces) : Result<void>(tl::unexpected(faces.error()));
            if (!good) break;
            taken.push_back({p.id, file.string(), capture_digest(r.scene, r.setup, r.view, p)});
        }
        const double ms =
            taken.empty() ? 0.0 : static_cast<double>(clock.elapsed()) / static_cast<double>(taken.size());
        QMetaObject::invokeMethod(
            this,
            [this, taken, good, ms, asset = r.scene.asset] {
                // Of a scene that is no more they are nobody's: another one's probes have the same ids.
                const bool same = document_.asset() == asset;
                emit captured(same ? taken : std::vector<Document::TakenCapture>(), same ? ms : 0.0);
                if (!good && same) emit capture_failed(good.error());
                refresh(false);
            },
            Qt::QueuedConnection);
    });
}

void RenderBridge::ask_capture_cost(const Probe& probe) {
    if (!document_.is_open()) return;
    renderer_->run([this, probe, r = request_for(Stage::full)](RenderSession& session) {
        const auto ms = view_cost(session, r.scene, r.setup, r.view, probe);
        if (!ms) return; // the picture itself says why
        QMetaObject::invokeMethod(
            this, [this, ms = 6 * *ms] { emit capture_cost_known(ms); }, Qt::QueuedConnection);
    });
}

} // namespace mirolux::app
