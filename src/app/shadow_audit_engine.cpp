#include "app/shadow_audit_engine.h"
#include "core/flat/flat_import.h"

namespace mirolux::app {

ShadowAuditEngine::ShadowAuditEngine(WorkerOptions options, QObject* parent)
    : QObject(parent), options_(std::move(options)), task_([this] { emit rested(); }) {
    options_.background = true;
    options_.watchdogSeconds = std::max(options_.watchdogSeconds, 600.0); // where others want the processor, it waits
}

void ShadowAuditEngine::audit(ShadowQuestion question) {
    ask({std::move(question), {}, false});
}

void ShadowAuditEngine::find_bias(ShadowQuestion question, double bound) {
    ask({std::move(question), bound, false});
}

void ShadowAuditEngine::try_spots(ShadowQuestion question) {
    ask({std::move(question), {}, true});
}

void ShadowAuditEngine::ask(Asked asked) {
    spots_ = asked.spots;
    task_.ask([this, asked = std::move(asked)](const NewestTask::GoesOn& goes_on) { answer(asked, goes_on); });
}

void ShadowAuditEngine::answer(Asked asked, const NewestTask::GoesOn& goes_on) {
    ShadowQuestion& q = asked.question;
    // The window holds no pictures: they are read once, for holes of masked surfaces.
    if (!q.scene.asset->textures.empty()) {
        if (!whole_ || whole_->fileDigest != q.scene.asset->fileDigest || whole_->path != q.scene.asset->path) {
            auto read = import_scene(q.scene.asset->path, {.choice = q.scene.asset->choice});
            if (!read) return emit failed(QString::fromStdString(to_text(read.error())));
            if ((*read)->fileDigest != q.scene.asset->fileDigest)
                return emit failed(tr("The scene file has changed; reload it to hold it against rays."));
            whole_ = std::move(*read);
        }
        q.scene.asset = whole_;
    }
    if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
    const auto tell = [&](const char* what, double share) {
        emit progressed(tr(what), share);
        return goes_on();
    };
    if (asked.bound) {
        auto solution = mirolux::find_bias(*worker_, q, *asked.bound, tell);
        if (!goes_on()) return;
        if (!solution) return emit failed(QString::fromStdString(to_text(solution.error())));
        emit found(std::make_shared<const BiasSolution>(std::move(*solution)), *asked.bound);
        return;
    }
    if (asked.spots) {
        auto trials = mirolux::try_spots(*worker_, {q, {2, 3, 4}, 7}, tell);
        if (!goes_on()) return;
        if (!trials) return emit failed(QString::fromStdString(to_text(trials.error())));
        emit tried(std::make_shared<const std::vector<SpotTrial>>(std::move(*trials)));
        return;
    }
    auto report = audit_shadows(*worker_, q, 0.1, tell);
    if (!goes_on()) return;
    if (!report) return emit failed(QString::fromStdString(to_text(report.error())));
    emit audited(std::make_shared<const ShadowReport>(std::move(*report)));
}

} // namespace mirolux::app
