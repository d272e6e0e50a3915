#include "app/main_window.h"

// Walks: recorded while flying, made of the named cameras, played, measured.
namespace mirolux::app {

const Walk* MainWindow::chosen_walk() const {
    const int i = deck_->walk().chosen_walk();
    return document_.is_open() && i >= 0 && i < static_cast<int>(document_.project().walks.size())
               ? &document_.project().walks[static_cast<std::size_t>(i)]
               : nullptr;
}

void MainWindow::measure_walk() {
    deck_->set_cut(CostDeck::Cut::walk);
    const Walk* walk = chosen_walk();
    if (!walk || bridge_->measuring()) return;
    document_.set_interactive(false);
    end_isolation();
    measuredA_ = document_.project().setup;
    remember_measured();
    walkCircumstances_ = nlohmann::json::object();
    keep_circumstances(walkCircumstances_, document_.project().setup, document_.scene());
    bridge_->walk(*walk, deck_->walk().every_metres(), 3, deck_->walk().headings());
    refresh_all();
}

void MainWindow::take_walk(const std::vector<WalkMeasurement>& m) {
    deck_->walk().show_walk(m);
    nlohmann::json document = walk_document(m.front(), measured_budget_ms(document_.target()));
    if (m.size() > 1) document["b"] = walk_document(m[1], measured_budget_ms(document_.target()));
    document.update(walkCircumstances_);
    std::optional<Logbook> other;
    QString against;
    if (const Logbook* book = book_of(measured_.book, other))
        if (const auto before = book->records("walk"); before && !before->empty()) {
            const auto last = nlohmann::json::parse(before->front().document, nullptr, false);
            const std::string step = step_between(last, document);
            if (!step.empty()) document["step"] = step;
            if (const auto gain = gain_of(last, document))
                against = tr("%1%2 of the walk before (%3 to %4), %5")
                              .arg(step.empty() ? QString() : QString::fromStdString(step) + ": ")
                              .arg(gain->ratio, 0, 'f', 3)
                              .arg(gain->low, 0, 'f', 3)
                              .arg(gain->high, 0, 'f', 3)
                              .arg(QString::fromStdString(gain->verdict));
        }
    deck_->walk().set_step(against);
    keep_record("walk", document);
    refresh_all();
    emit walk_shown();
}

void MainWindow::play_walk() {
    if (walking_ == Walking::playing) {
        walking_ = Walking::none;
        walkTimer_.stop();
        bridge_->set_time_flows(false);
        document_.set_interactive(false);
        return;
    }
    const Walk* walk = chosen_walk();
    if (!walk || walking_ != Walking::none) return;
    walk_ = *walk;
    walking_ = Walking::playing;
    walkClock_.start();
    bridge_->set_time_flows(true);
    document_.set_interactive(true);
    walkTimer_.start();
}

void MainWindow::record_walk() {
    if (!document_.is_open() || walking_ == Walking::playing) return;
    if (walking_ == Walking::none) {
        walk_ = {};
        walk_.name = "walk " + std::to_string(document_.project().walks.size() + 1);
        walk_.fovY = document_.project().view.camera.fovY;
        walking_ = Walking::recording;
        notice_ = tr("Recording a walk: fly with the arrow keys or the mouse. Shift+R ends it.");
        walkClock_.start();
        walkTimer_.start();
        walk_step();
    } else {
        walk_step();
        walking_ = Walking::none;
        walkTimer_.stop();
        notice_.clear();
        if (walk_.keys.size() < 2)
            notice_ = tr("The camera did not move: no walk was kept.");
        else
            document_.edit(tr("record walk"), [this](Project& p) { p.walks.push_back(walk_); });
    }
    refresh_status();
}

void MainWindow::walk_of_cameras() {
    if (!document_.is_open() || document_.project().cameras.size() < 2) {
        notice_ = tr("A walk needs two named cameras or more.");
        refresh_status();
        return;
    }
    document_.edit(tr("walk of the cameras"), [](Project& p) {
        Walk w;
        w.name = "through the cameras";
        w.fovY = p.view.camera.fovY;
        double seconds = 0;
        for (std::size_t i = 0; i < p.cameras.size(); ++i) {
            if (i)
                seconds +=
                    std::max(0.5, double(glm::length(p.cameras[i].eye - p.cameras[i - 1].eye)) / 4.0); // at 4 m/s
            w.keys.push_back({seconds, p.cameras[i].eye, p.cameras[i].aim});
        }
        p.walks.push_back(std::move(w));
    });
}

void MainWindow::walk_step() {
    const double now = static_cast<double>(walkClock_.elapsed()) * 1e-3;
    if (walking_ == Walking::playing) {
        const double end = walk_.keys.back().seconds - walk_.keys.front().seconds;
        document_.set_seconds(walk_.keys.front().seconds + std::min(now, end));
        document_.move_camera(camera_on(walk_, walk_.keys.front().seconds + std::min(now, end)));
        if (now >= end) play_walk();
    } else if (walking_ == Walking::recording) {
        const Camera& c = document_.project().view.camera;
        // A key where something has moved, at most four a second; standing still makes none.
        const bool moved = walk_.keys.empty() || glm::length(c.eye - walk_.keys.back().eye) > 0.05f ||
                           glm::length(c.aim - walk_.keys.back().aim) > 0.05f;
        if (moved && (walk_.keys.empty() || now - walk_.keys.back().seconds >= 0.25))
            walk_.keys.push_back({now, c.eye, c.aim});
    }
}

} // namespace mirolux::app
