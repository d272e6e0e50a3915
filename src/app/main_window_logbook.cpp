#include "app/main_window.h"
#include "core/io/file.h"
#include <QFileDialog>
#include <QStackedWidget>
#include <QToolButton>

// The logbook in the window: what is measured and kept, the journal of it, and its report.
namespace mirolux::app {

void MainWindow::connect_logbook() {
    connect(logbookPanel_, &LogbookPanel::stop_wanted, this, [this] { bridge_->stop_measuring(); });
    connect(logbookPanel_, &LogbookPanel::journal_wanted, this, [this] { show_journal(middle_->currentIndex() != 1); });
    connect(logbookPanel_, &LogbookPanel::restore_wanted, this, &MainWindow::restore_entry);
    connect(logbookPanel_, &LogbookPanel::delete_wanted, this, [this](qint64 id) {
        if (!logbook_) return;
        if (auto ok = logbook_->remove(id); !ok) return show_error(ok.error());
        deletedEntries_.push_back(id);
        open_logbook();
    });
    connect(logbookPanel_, &LogbookPanel::annotated, this, [this](qint64 id, const QString& note) {
        if (!logbook_) return;
        if (auto ok = logbook_->annotate(id, note.toStdString()); !ok) show_error(ok.error());
    });
    connect(journal_, &JournalView::restore_wanted, this, [this](qint64 id) {
        show_journal(false);
        restore_entry(id);
    });
    connect(journal_, &JournalView::back_wanted, this, [this] { show_journal(false); });
    connect(journal_, &JournalView::report_wanted, this, [this] {
        const QString path = QFileDialog::getSaveFileName(
            this, tr("Save the journal"), QString::fromStdString(document_.project().name) + tr(" journal.html"),
            tr("Pages (*.html);;Tables (*.csv);;Data (*.json)"));
        if (!path.isEmpty()) save_journal(path);
    });
    connect(bridge_.get(), &RenderBridge::measuring_changed, this, [this](bool on) {
        viewport_->set_quiet(on);
        if (on && walking_ == Walking::playing) play_walk(); // ends it
    });
    connect(bridge_.get(), &RenderBridge::measure_progress, logbookPanel_, &LogbookPanel::show_progress);
    connect(bridge_.get(), &RenderBridge::targets_judged, this, [this](const std::vector<TargetVerdict>& verdicts) {
        logbookPanel_->show_rest();
        targetBench_->show_verdicts(verdicts);
        refresh_all();
    });
    connect(bridge_.get(), &RenderBridge::measured, this, [this](const Measurement& m, const State& state, qint64 run) {
        logbookPanel_->show_rest();
        refresh_all();
        std::optional<Logbook> other;
        Logbook* book = book_of(measured_.book, other);
        if (!book) return;
        if (auto id = book->add(state, m, bridge_->device().value_or(DeviceInfo{}), measured_.target,
                                measured_.sceneDigest, run);
            !id) {
            logbookPanel_->show_trouble(QString::fromStdString(to_text(id.error())));
            return;
        }
        open_logbook();
    });
}

void MainWindow::open_logbook() {
    entries_.clear();
    points_.clear();
    if (!logbook_ && document_.is_open() && !document_.project().path.empty()) {
        auto book = Logbook::open(logbook_path(document_.project().path));
        if (book)
            logbook_.emplace(std::move(*book));
        else
            logbookPanel_->show_trouble(QString::fromStdString(to_text(book.error())));
    }
    if (logbook_) {
        auto points = logbook_->points();
        EntryQuery newest;
        newest.limit = 20;
        auto entries = logbook_->entries(newest);
        if (points && entries) {
            points_ = std::move(*points);
            entries_ = std::move(*entries);
        } else
            logbookPanel_->show_trouble(QString::fromStdString(to_text(points ? entries.error() : points.error())));
    }
    const auto fetch = [this](const std::vector<std::int64_t>& ids) -> std::vector<Entry> {
        if (!logbook_) return {};
        auto read = logbook_->entries_of(ids);
        return read ? std::move(*read) : std::vector<Entry>{};
    };
    logbookPanel_->show_entries(points_, fetch);
    journal_->show_entries(points_, fetch);
    refresh_all();
}

void MainWindow::keep_record(const std::string& kind, const nlohmann::json& document) {
    std::optional<Logbook> other;
    Logbook* book = book_of(measured_.book, other);
    if (!book) return;
    if (auto ok = book->keep_record(kind, bridge_->device().value_or(DeviceInfo{}).renderer, measured_.sceneDigest,
                                    measuredA_, document);
        !ok)
        logbookPanel_->show_trouble(QString::fromStdString(to_text(ok.error())));
}

void MainWindow::remember_measured() {
    const std::string& path = document_.project().path;
    measured_ = {path.empty() ? std::filesystem::path() : logbook_path(path), document_.target(),
                 document_.scene_digest()};
}

Logbook* MainWindow::book_of(const std::filesystem::path& path, std::optional<Logbook>& other) {
    if (path.empty()) return nullptr;
    if (logbook_ && path == logbook_path(document_.project().path)) return &*logbook_;
    auto book = Logbook::open(path);
    if (!book) {
        logbookPanel_->show_trouble(QString::fromStdString(to_text(book.error())));
        return nullptr;
    }
    other.emplace(std::move(*book));
    return &*other;
}

void MainWindow::reload_logbook() {
    logbook_.reset();
    open_logbook();
}

void MainWindow::show_journal(bool on) {
    show_view(on ? 1 : 0);
}

bool MainWindow::save_journal(const QString& path) {
    if (!logbook_) return false;
    auto report = journal_report(*logbook_, {}, document_.project().name + ": journal of changes");
    if (!report) {
        show_error(report.error());
        return false;
    }
    const std::string text = path.endsWith(".csv")    ? journal_csv(*report)
                             : path.endsWith(".json") ? json_text(journal_json(*report), 2) + "\n"
                                                      : journal_html(*report);
    if (auto ok = write_file_atomically(path.toStdString(), text); !ok) {
        show_error(ok.error());
        return false;
    }
    return true;
}

void MainWindow::log_state(int rounds) {
    if (!document_.is_open() || bridge_->measuring()) return;
    if (document_.project().path.empty() && !save_as()) {
        logbookPanel_->show_trouble(tr("The logbook lies beside the project: save the project first, then log."));
        return;
    }
    document_.set_interactive(false);
    end_isolation();
    remember_measured();
    logbookPanel_->show_progress({0, rounds, 0, {}, {}});
    bridge_->measure(rounds, RenderBridge::KeepRounds{logbook_path(document_.project().path), document_.target(),
                                                      document_.scene_digest()});
    refresh_all();
}

void MainWindow::judge_targets(int rounds) {
    if (!document_.is_open() || bridge_->measuring()) return;
    document_.set_interactive(false);
    end_isolation();
    logbookPanel_->show_progress({0, rounds, 0, {}, {}});
    bridge_->judge_targets(rounds);
    refresh_all();
}

void MainWindow::restore_entry(qint64 id) {
    if (!logbook_) return;
    auto state = logbook_->state(id);
    if (!state) return show_error(state.error());
    document_.edit(tr("restore"), [&](Project& p) {
        // The picture's size belongs to a target: one of that size is chosen, or made.
        auto fits = [&](const Target& t) { return on_target(state->view, t) == state->view; };
        const auto it = std::find_if(p.targets.begin(), p.targets.end(), fits);
        if (!fits(p.targets[static_cast<std::size_t>(p.target)])) {
            if (it != p.targets.end())
                choose_target(p, static_cast<int>(it - p.targets.begin()));
            else {
                add_target(p);
                Target& t = p.targets.back();
                t.name = t.name.substr(0, t.name.rfind(" copy")) + " as logged";
                t.width = state->view.width;
                t.height = state->view.height;
                t.stereo = state->view.stereo;
                t.eyeDistance = state->view.eyeDistance;
            }
        }
        p.setup = state->setup;
        p.lights = state->lights;
        p.objects = state->objects;
        p.volumes = state->volumes;
        p.cheapLights = state->cheapLights;
        p.probes = state->probes;
        p.view = state->view;
    });
    bridge_->refresh(false);
}

} // namespace mirolux::app
