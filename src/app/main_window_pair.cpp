#include "app/main_window.h"
#include "core/base/text.h"
#include "core/plan/camera_motion.h"
#include "core/scene/geometry.h"

// A and B: two setups beside each other, in the picture, on the tape and in words.
namespace mirolux::app {

void MainWindow::set_b(const std::optional<Setup>& b) {
    if (!document_.is_open()) return;
    document_.edit(b ? tr("take as B") : tr("clear B"), [&](Project& p) { p.b = b; });
}

void MainWindow::sync_b() {
    const std::optional<Setup> wanted = document_.is_open() ? document_.project().b : std::nullopt;
    if (wanted == bridge_->b()) return;
    pairTime_.clear();
    deck_->tape().forget_compared();
    pairPicture_.clear();
    viewport_->show_b({});
    deck_->tape().set_b(wanted ? &bridge_->history_b() : nullptr);
    bridge_->set_b(wanted);
    report_pair();
}

void MainWindow::swap_with_b() {
    if (!bridge_->b()) return;
    document_.edit(tr("swap A and B"), [](Project& p) { std::swap(p.setup, *p.b); });
}

void MainWindow::compare_pair() {
    if (!bridge_->b() || bridge_->measuring()) return;
    document_.set_interactive(false);
    end_isolation();
    deck_->set_cut(CostDeck::Cut::pass);
    measuredA_ = document_.project().setup;
    remember_measured();
    measuredB_ = *bridge_->b();
    bridge_->measure_pair(24);
    refresh_all();
}

QString MainWindow::place_name(QPoint pixel) const {
    const View view = eye_views(on_target(document_.project().view, document_.target())).front();
    const Ray ray = ray_through(view, pixel.x() + 0.5, pixel.y() + 0.5);
    const RayHit hit = document_.rays().nearest(ray);
    const QString where = tr("pixel %1, %2").arg(pixel.x()).arg(pixel.y());
    if (hit.object < 0) return tr("the sky (%1)").arg(where);
    const std::string name = document_.object_name(hit.object).name;
    return name.empty() ? where : tr("%1 (%2)").arg(QString::fromStdString(name), where);
}

/// "B (Path forward -> deferred): 23.1 % faster (19.4 to 27.0), picture: mean 0.4 %, worst 6 %".
void MainWindow::report_pair() {
    if (truthShown_) return; // its line is there
    if (!bridge_->b()) return deck_->tape().set_pair_line({});
    const auto changes = differences(document_.project().setup, *bridge_->b());
    QString what = QString::fromStdString(joined(
        {changes.begin(), changes.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(changes.size(), 3))},
        "; "));
    if (changes.size() > 3) what += tr("; %1 more").arg(changes.size() - 3);
    if (changes.empty()) what = tr("the same as A; change A now");
    QStringList parts;
    parts << (pairTime_.isEmpty() ? tr("not compared yet (Shift+K)") : pairTime_);
    if (!pairPicture_.isEmpty()) parts << pairPicture_;
    deck_->tape().set_pair_line(tr("B (%1): %2").arg(what, parts.join(", ")));
}

} // namespace mirolux::app
