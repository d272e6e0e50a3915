#include "app/bake_task.h"
#include "core/flat/flat_import.h"

namespace mirolux::app {

BakeTask::BakeTask(Document& document, QObject* parent) : QObject(parent), document_(document), task_([] {}) {}

BakeTask::~BakeTask() {
    stop_ = true;
    task_.stop();
}

void BakeTask::run(Beginning begins) {
    if (working_ || !document_.is_open() || !document_.is_solid()) return;
    working_ = true;
    stop_ = false;
    // From its thread to the window's.
    const auto tell = [this](auto run) { QMetaObject::invokeMethod(this, run, Qt::QueuedConnection); };
    task_.ask([this, tell, begins = std::move(begins), setup = document_.project().setup,
               scene = document_.scene()](const NewestTask::GoesOn&) mutable {
        const auto ends = [&](const QString& words) {
            tell([this, words] {
                working_ = false;
                emit ended(words);
            });
        };
        const auto fails = [&](const Error& e) { ends(QString::fromStdString(to_text(e))); };
        auto whole = with_pictures(scene.asset, whole_); // the window holds none
        if (!whole) return fails(whole.error());
        scene.asset = std::move(*whole);
        auto made = begins(scene, setup);
        if (!made) return fails(made.error());
        Bake& b = **made;
        const QString places = b.places();
        bool over = b.work(0);
        double kept = 0;
        while (!over && !stop_) {
            over = b.work(250, &stop_);
            const BakeProgress p = b.progress();
            tell([this, p, places] {
                if (working_)
                    emit progressed(tr("%L1 of %L2 %3, %4 s to go")
                                        .arg(static_cast<qulonglong>(p.done))
                                        .arg(static_cast<qulonglong>(p.all))
                                        .arg(places)
                                        .arg(p.left, 0, 'f', 0));
            });
            if (p.seconds - kept < 20) continue; // a kill loses no more than that
            if (auto ok = b.keep(); !ok) return fails(ok.error());
            kept = p.seconds;
        }
        if (auto ok = b.keep(); !ok) return fails(ok.error());
        QString words = QString::fromStdString(b.remark());
        if (!over)
            words += tr("Stopped at %1 %; it goes on from there.")
                         .arg(100.0 * double(b.progress().done) / double(b.progress().all), 0, 'f', 0);
        ends(words);
    });
}

} // namespace mirolux::app
