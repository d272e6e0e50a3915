#include "app/finish_engine.h"
#include "core/image/image_io.h"

namespace mirolux::app {

FinishEngine::FinishEngine(WorkerOptions options, QObject* parent)
    : QObject(parent), options_(std::move(options)), task_([] {}) {
    options_.background = true;
    options_.watchdogSeconds = std::max(options_.watchdogSeconds, 600.0); // where others want the processor, it waits
}

Result<LayerSheet> FinishEngine::answer(const SheetQuestion& q) {
    if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
    return layer_sheet(*worker_, q.scene, q.setup, q.view, q.cellWidth, q.cellHeight, q.grey);
}

void FinishEngine::ask(SheetQuestion question) {
    task_.ask([this, question = std::move(question)](const NewestTask::GoesOn& goes_on) {
        auto sheet = answer(question);
        if (!goes_on()) return;
        if (!sheet) return emit failed(QString::fromStdString(to_text(sheet.error())));
        emit ready(std::make_shared<const LayerSheet>(std::move(*sheet)));
    });
}

void FinishEngine::save(SheetQuestion question, const QString& path) {
    task_.ask([this, question = std::move(question), path](const NewestTask::GoesOn&) {
        const auto sheet = answer(question);
        if (!sheet) return emit failed(QString::fromStdString(to_text(sheet.error())));
        const std::filesystem::path file = path.toStdString();
        const auto written =
            file.extension() == ".exr" ? write_sheet(file, *sheet) : write_png(file, sheet_picture(*sheet, 4));
        if (!written) return emit failed(QString::fromStdString(to_text(written.error())));
        emit saved(path);
    });
}

void FinishEngine::ask_sizes(const Scene& scene, const Setup& setup, const View& view) {
    task_.ask([this, scene, setup, view](const NewestTask::GoesOn& goes_on) {
        if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
        const auto costs = size_costs(*worker_, scene, setup, view, 7, [&](double share) {
            emit sizes_progressed(share);
            return goes_on();
        });
        if (!goes_on()) return;
        if (!costs) return emit failed(QString::fromStdString(to_text(costs.error())));
        emit sizes_ready(*costs);
    });
}

} // namespace mirolux::app
