#include "app/main_window.h"
#include "app/proxy_row.h"
#include "core/shadow/caster_proxies.h"
#include <cmath>
#include <set>

// Shadows in the window: boxes that cast in place of dear objects, and what rays say.
namespace mirolux::app {

std::vector<int> MainWindow::selected_proxies() const {
    std::vector<int> out;
    for (const int o : selection_->objects())
        if (document_.is_proxy(o)) out.push_back(o);
    return out;
}

void MainWindow::connect_shadows() {
    connect_audit();
    proxyRow_ = new ProxyRow(document_, this);
    settingsBenches_["Shadows"]->add_row(proxyRow_);
    connect(&document_, &Document::changed, proxyRow_, [this] { proxyRow_->setVisible(document_.is_solid()); });
    connect(proxyRow_, &ProxyRow::draw_wanted, this, &MainWindow::draw_proxy);
    connect(proxyRow_, &ProxyRow::against_wanted, this, [this] {
        Setup b = document_.project().setup;
        if (auto ok = b.set_text("shadow.proxies", "off"); ok) set_b(b);
    });
    connect(viewport_, &Viewport::proxy_drawn, this, [this](ObjectEdit drawn) {
        draw_proxy(false);
        drawn.id = drawn.name = free_proxy_name(*document_.asset(), document_.project().objects);
        document_.edit_objects(tr("draw %1").arg(QString::fromStdString(drawn.name)), {drawn});
        select_proxies({drawn.id});
    });
}

void MainWindow::draw_proxy(bool on) {
    if (on && station_ != "Shadows") set_station("Shadows");
    viewport_->draw_proxy(on);
    proxyRow_->set_drawing(on);
    notice_ = on ? tr("Drag over a surface to lay out a box that only casts (Shift+N: not after all)") : QString();
    refresh_status();
}

void MainWindow::select_proxies(const std::vector<std::string>& ids) {
    std::vector<int> objects;
    for (int o = 0; o < document_.object_count(); ++o)
        if (document_.is_proxy(o) && std::find(ids.begin(), ids.end(), document_.object_name(o).id) != ids.end())
            objects.push_back(o);
    selection_->set({}, objects);
}

/// Boxes fitted around the selected objects cast in their place.
void MainWindow::stand_in() {
    std::vector<int> objects;
    for (const int o : selection_->objects())
        if (!document_.is_proxy(o)) objects.push_back(o);
    if (objects.empty()) return;
    const std::vector<ObjectEdit> before = document_.project().objects,
                                  after = with_proxies(document_.scene(), objects, before);
    std::vector<std::string> added;
    for (const ObjectEdit& e : after)
        if (e.proxy && std::none_of(before.begin(), before.end(), [&](const ObjectEdit& b) { return b.id == e.id; }))
            added.push_back(e.id);
    document_.edit(
        tr("proxies for %1").arg(objects.size() == 1 ? tr("1 object") : tr("%1 objects").arg(objects.size())),
        [&](Project& p) { p.objects = after; });
    select_proxies(added);
    notice_ =
        added.size() == 1 ? tr("1 box casts in their place") : tr("%1 boxes cast in their place").arg(added.size());
    refresh_status();
}

void MainWindow::delete_proxies() {
    std::set<std::string> ids;
    for (const int o : selected_proxies())
        ids.insert(document_.object_name(o).id);
    if (ids.empty()) return;
    selection_->clear();
    document_.edit(ids.size() == 1 ? tr("delete proxy") : tr("delete %1 proxies").arg(ids.size()), [&](Project& p) {
        p.objects.change([&](std::vector<ObjectEdit>& edits) {
            std::erase_if(edits, [&](const ObjectEdit& e) { return e.proxy && ids.count(e.id) > 0; });
        });
    });
}

void MainWindow::duplicate_proxies() {
    std::vector<ObjectEdit> all = document_.project().objects, copies;
    std::vector<std::string> ids;
    for (const int o : selected_proxies()) {
        ObjectEdit e = document_.object_edit(o);
        e.id = e.name = free_proxy_name(*document_.asset(), all);
        e.translation.x += 0.5f;
        ids.push_back(e.id);
        all.push_back(e);
        copies.push_back(std::move(e));
    }
    document_.edit_objects(copies.size() == 1 ? tr("duplicate proxy") : tr("duplicate %1 proxies").arg(copies.size()),
                           copies);
    select_proxies(ids);
}

/// The view as it is audited: about sixty thousand pixels of the target's size.
ShadowQuestion MainWindow::shadow_question() const {
    const View view = on_target(document_.project().view, document_.target());
    const int every = std::max(1, static_cast<int>(std::ceil(std::sqrt(double(view.width) * view.height / 60000))));
    return {document_.scene(), document_.project().setup, view, every, {}};
}

void MainWindow::audit_shadows() {
    set_station("Shadows"); // its own bench, not that of what is selected
    if (document_.is_open()) shadowAudit_->audit(shadow_question());
}

void MainWindow::find_bias() {
    set_station("Shadows"); // its own bench, not that of what is selected
    if (document_.is_open()) shadowAudit_->find_bias(shadow_question(), auditRow_->bound());
}

/// Where the question was asked.
void MainWindow::show_audit_trouble(const QString& words) {
    if (shadowAudit_->kind() == ShadowAuditEngine::Kind::price)
        objectsBench_->show_price(words, false);
    else if (shadowAudit_->kind() == ShadowAuditEngine::Kind::spots)
        spotRow_->show_trouble(words);
    else
        auditRow_->show_trouble(words);
}

void MainWindow::try_spots() {
    const Light* point = document_.light(selection_->light());
    if (!document_.is_open() || !point) return spotRow_->show_trouble(tr("Select a point light first."));
    ShadowQuestion q = shadow_question();
    q.light = point->id;
    shadowAudit_->try_spots(std::move(q));
}

/// The selected point goes off, the spots take its place and are selected.
void MainWindow::keep_spots(const SpotTrial& trial) {
    const Light* point = document_.light(selection_->light());
    if (!point) return;
    const int id = point->id;
    int first = 0;
    document_.edit(tr("%1 spots in place of %2").arg(trial.count).arg(QString::fromStdString(point->name)),
                   [&](Project& p) {
                       first = put_in_place(p.lights, p.motions, id, trial.spots);
                       (void)p.setup.set("shadow.casters", trial.casters);
                   });
    std::vector<int> ids;
    for (int i = 0; i < trial.count; ++i)
        ids.push_back(first + i);
    selection_->set(ids, {});
}

void MainWindow::connect_spots() {
    spotRow_ = new SpotTrialRow(this);
    lightBench_->add_shadow_row(spotRow_);
    ShadowAuditEngine* engine = shadowAudit_.get();
    connect(spotRow_, &SpotTrialRow::trial_wanted, this, &MainWindow::try_spots);
    connect(spotRow_, &SpotTrialRow::stop_wanted, engine, &ShadowAuditEngine::stop);
    connect(spotRow_, &SpotTrialRow::keep_wanted, this, &MainWindow::keep_spots);
    connect(engine, &ShadowAuditEngine::tried, spotRow_, &SpotTrialRow::show_trials);
    connect(engine, &ShadowAuditEngine::rested, spotRow_, &SpotTrialRow::show_rest);
    connect(selection_.get(), &Selection::changed, this, [this, engine] {
        if (engine->busy() && engine->kind() == ShadowAuditEngine::Kind::spots)
            engine->stop(); // it was asked about another light
        spotRow_->set_stale();
    });
}

void MainWindow::connect_audit() {
    connect_spots();
    auditRow_ = new ShadowAuditRow(this);
    settingsBenches_["Shadows"]->add_row(auditRow_);
    connect(&document_, &Document::changed, auditRow_, [this] { auditRow_->setVisible(document_.is_solid()); });
    ShadowAuditEngine* engine = shadowAudit_.get();
    connect(auditRow_, &ShadowAuditRow::audit_wanted, this, &MainWindow::audit_shadows);
    connect(auditRow_, &ShadowAuditRow::search_wanted, this, &MainWindow::find_bias);
    connect(auditRow_, &ShadowAuditRow::stop_wanted, engine, &ShadowAuditEngine::stop);
    connect(auditRow_, &ShadowAuditRow::take_wanted, this, [this](const BiasSet& set) {
        document_.edit(tr("least bias"), [&](Project& p) {
            (void)p.setup.set("shadow.bias", set.bias);
            (void)p.setup.set("shadow.slopeBias", set.slopeBias);
            (void)p.setup.set("shadow.normalOffset", set.normalOffset);
        });
    });
    connect(auditRow_, &ShadowAuditRow::marks_wanted, this,
            [this](bool on) { viewport_->set_faults(on ? shadowReport_ : nullptr); });
    connect(engine, &ShadowAuditEngine::progressed, this, [this, engine](const QString& what, double share) {
        if (bridge_->measuring()) { // it would stand in what is timed
            engine->stop();
            return show_audit_trouble(tr("Stopped: the device is being measured."));
        }
        if (engine->kind() == ShadowAuditEngine::Kind::price)
            objectsBench_->show_price(tr("%1: %2 %").arg(what).arg(100 * share, 0, 'f', 0), true);
        else if (engine->kind() == ShadowAuditEngine::Kind::spots)
            spotRow_->show_progress(what, share);
        else
            auditRow_->show_progress(what, share);
    });
    connect(engine, &ShadowAuditEngine::audited, this, [this](const std::shared_ptr<const ShadowReport>& report) {
        shadowReport_ = report;
        auditRow_->show_report(report);
    });
    connect(engine, &ShadowAuditEngine::found, auditRow_, &ShadowAuditRow::show_solution);
    connect(engine, &ShadowAuditEngine::failed, this, &MainWindow::show_audit_trouble);
    connect(engine, &ShadowAuditEngine::rested, auditRow_, &ShadowAuditRow::show_rest);
    const auto stale = [this, engine] {
        if (engine->busy()) engine->stop();
        shadowReport_.reset();
        auditRow_->set_stale();
        spotRow_->set_stale();
        auditRow_->set_possible(document_.is_open() && document_.project().setup.flag("shadow.maps"));
        if (viewport_->shows_faults()) viewport_->set_faults(nullptr);
    };
    connect(&document_, &Document::changed, this, stale);
    connect(&document_, &Document::camera_moved, this, stale);
    connect(&document_, &Document::opened, this, stale);
}

} // namespace mirolux::app
