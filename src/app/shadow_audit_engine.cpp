#include "app/shadow_audit_engine.h"
#include "core/flat/flat_import.h"

namespace mirolux::app {

ShadowAuditEngine::ShadowAuditEngine(WorkerOptions options, QObject* parent)
    : QObject(parent), options_(std::move(options)), task_([this] { emit idle(); }) {
    connect(this, &ShadowAuditEngine::idle, this, [this] {
        if (task_.busy()) return;
        busy_ = false;
        emit rested();
    });
    options_.background = true;
    options_.watchdogSeconds = std::max(options_.watchdogSeconds, 600.0); // where others want the processor, it waits
}

void ShadowAuditEngine::audit(ShadowQuestion question) {
    ask({std::move(question), Kind::audit, 0, {}});
}

void ShadowAuditEngine::find_bias(ShadowQuestion question, double bound) {
    ask({std::move(question), Kind::bias, bound, {}});
}

void ShadowAuditEngine::try_spots(ShadowQuestion question) {
    ask({std::move(question), Kind::spots, 0, {}});
}

void ShadowAuditEngine::price(ShadowQuestion question, std::vector<int> objects) {
    ask({std::move(question), Kind::price, 0, std::move(objects)});
}

void ShadowAuditEngine::ask(Asked asked) {
    busy_ = true;
    kind_ = asked.kind;
    task_.ask([this, asked = std::move(asked)](const NewestTask::GoesOn& goes_on) { answer(asked, goes_on); });
}

void ShadowAuditEngine::answer(Asked asked, const NewestTask::GoesOn& goes_on) {
    ShadowQuestion& q = asked.question;
    // The window holds no pictures: they are read once, for holes of masked surfaces.
    auto whole = with_pictures(q.scene.asset, whole_);
    if (!whole) return emit failed(QString::fromStdString(to_text(whole.error())));
    q.scene.asset = std::move(*whole);
    if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
    const auto tell = [&](const char* what, double share) {
        emit progressed(tr(what), share);
        return goes_on();
    };
    if (asked.kind == Kind::bias) {
        auto solution = mirolux::find_bias(*worker_, q, asked.bound, tell);
        if (!goes_on()) return;
        if (!solution) return emit failed(QString::fromStdString(to_text(solution.error())));
        emit found(std::make_shared<const BiasSolution>(std::move(*solution)), asked.bound);
        return;
    }
    if (asked.kind == Kind::price) {
        auto price = price_objects(*worker_, q.scene, asked.objects, q.setup, q.view, 15,
                                   [&](double share) { return tell("measuring in pairs", share); });
        if (!goes_on()) return;
        if (!price) return emit failed(QString::fromStdString(to_text(price.error())));
        emit priced(std::make_shared<const ObjectPrice>(std::move(*price)));
        return;
    }
    if (asked.kind == Kind::spots) {
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
