#include "app/light_map_bench.h"
#include "app/benches.h"
#include "core/base/text.h"
#include "core/flat/flat_import.h"
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace mirolux::app {

LightMapBench::LightMapBench(Document& document, WorkerOptions options, QWidget* parent)
    : QWidget(parent), document_(document), options_(std::move(options)), bake_(new QPushButton(this)),
      probes_(new QPushButton(this)), place_(new QPushButton(tr("Probe here"), this)),
      compare_(new QPushButton(tr("Compare ways"), this)), state_(quiet_label({}, this)), plot_(new MapPlot(this)),
      table_(new QTableWidget(0, 5, this)), bakes_(document), task_([] {}) {
    options_.background = true;
    options_.watchdogSeconds = std::max(options_.watchdogSeconds, 600.0);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    bake_->setObjectName("bake light map");
    probes_->setObjectName("bake probes");
    place_->setObjectName("probe here");
    place_->setToolTip(tr("Sets a probe where the camera stands (Alt+G): a hidden ball, which is moved, copied and "
                          "taken away as all that is built is. Probes placed by hand stand in for the grid."));
    compare_->setObjectName("compare light maps");
    compare_->setToolTip(tr("Renders this view with every map that was baked, in every store and with all kinds of "
                            "directions: what each takes, and what its picture loses."));
    state_->setObjectName("light map state");
    state_->setWordWrap(true);
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(bake_);
    line->addWidget(probes_);
    line->addWidget(place_);
    line->addWidget(compare_);
    column->addLayout(line);
    column->addWidget(state_);
    plot_->setToolTip(tr("A dot for each way, filled as far as highlights are kept: grey without directions, yellow "
                         "with one, blue with one a channel. A click takes it."));
    plot_->hide();
    column->addWidget(plot_);
    table_->setObjectName("light map table");
    table_->setAccessibleName(tr("Ways of keeping light maps"));
    table_->verticalHeader()->hide();
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setShowGrid(false);
    table_->setMinimumHeight(190);
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch); // so that none is out of sight
    table_->verticalHeader()->setDefaultSectionSize(table_->fontMetrics().height() + 4);
    table_->hide();
    column->addWidget(table_);

    connect(bake_, &QPushButton::clicked, this, [this] { working() ? stop() : bake(); });
    connect(probes_, &QPushButton::clicked, this, [this] { working() ? stop() : bake_probes(); });
    connect(place_, &QPushButton::clicked, this, &LightMapBench::place_probe);
    connect(&bakes_, &BakeTask::progressed, state_, &QLabel::setText);
    connect(&bakes_, &BakeTask::ended, this, &LightMapBench::ended);
    connect(compare_, &QPushButton::clicked, this, &LightMapBench::compare);
    connect(plot_, &MapPlot::chosen, this, &LightMapBench::take_row);
    connect(table_, &QTableWidget::cellDoubleClicked, this, [this](int row) {
        if (plot_->isVisible() && plot_->table()) take_row(plot_->table()->rows[static_cast<std::size_t>(row)]);
    });
    connect(&document_, &Document::opened, this, [this] {
        stop();
        found_.clear();
        show_table(nullptr);
    });
    connect(&document_, &Document::changed, this, &LightMapBench::take);
    take();
}

LightMapBench::~LightMapBench() {
    stop_ = true;
    task_.stop();
}

void LightMapBench::stop() {
    stop_ = true;
    bakes_.stop();
}

void LightMapBench::take() {
    const bool on = document_.is_open() && document_.is_solid() && uses_probe_grid(document_.project().setup);
    setVisible(on);
    if (on) show_state();
}

QString LightMapBench::map_words() const {
    std::string remark;
    const auto baked = baked_light_of(document_.scene(), document_.project().setup, &remark);
    QString words;
    if (baked)
        words = tr("%1 x %2 texels on %3 surfaces, %4 lights in it; %5 MiB.")
                    .arg(baked->layout.width)
                    .arg(baked->layout.height)
                    .arg(baked->layout.places.size())
                    .arg(baked->lights.size())
                    .arg(double(baked->bytes()) / (1 << 20), 0, 'f', 1);
    if (!remark.empty()) words += (words.isEmpty() ? "" : " ") + QString::fromStdString(remark);
    return words;
}

QString LightMapBench::probe_words() const {
    std::string remark;
    const auto grid = probe_grid_of(document_.scene(), document_.project().setup, &remark);
    if (!grid) return QString::fromStdString(remark);
    const ProbeReading reading = probe_reading(document_.project().setup);
    const auto bytes = double(grid->bytes(reading.order, reading.visibility));
    const QString words = grid->placed.empty() ? tr("%1 x %2 x %3 probes, %4 m apart; %5 MiB.")
                                                     .arg(grid->count.x)
                                                     .arg(grid->count.y)
                                                     .arg(grid->count.z)
                                                     .arg(double(grid->options.spacing), 0, 'g', 3)
                                                     .arg(bytes / (1 << 20), 0, 'f', 1)
                                               : tr("%1 probes placed by hand, each shines to %2 m; %3 KiB.")
                                                     .arg(grid->size())
                                                     .arg(double(grid->reach()), 0, 'g', 3)
                                                     .arg(bytes / 1024, 0, 'f', 1);
    return words + (remark.empty() ? QString() : " " + QString::fromStdString(remark));
}

void LightMapBench::show_state() {
    const bool maps = uses_light_map(document_.project().setup);
    const bool patches = maps && light_map_options(document_.project().setup).patches; // they have a bench of their own
    bake_->setVisible(maps && !patches && working_ != Work::probes);
    bake_->setText(working_ == Work::none ? tr("Bake") : tr("Stop"));
    probes_->setVisible(working_ == Work::none || working_ == Work::probes);
    place_->setVisible(!maps && working_ == Work::none);
    probes_->setText(working_ == Work::none ? maps ? tr("Probes") : tr("Compute") : tr("Stop"));
    const QString stops = tr("What is done stays; it goes on from there.");
    bake_->setToolTip(working_ != Work::none
                          ? stops
                          : tr("Follows light from every texel, beside the window; what is there already stays."));
    probes_->setToolTip(working_ != Work::none
                            ? stops
                            : tr("Computes the light that arrives at each probe in space, beside the "
                                 "window, for what has no place in a map."));
    compare_->setEnabled(working_ == Work::none);
    if (working_ != Work::none) return;
    QString words = maps ? map_words() : probe_words();
    if (maps && probe_grid_of(document_.scene(), document_.project().setup)) words += " " + probe_words();
    if (!found_.isEmpty()) words += " " + found_;
    state_->setText(words);
    compare_->setEnabled(maps ? !known_maps(document_.scene(), document_.project().setup).empty()
                              : !known_grids(document_.scene(), document_.project().setup).empty());
}

void LightMapBench::begin(Work work) {
    working_ = work;
    stop_ = false;
    found_.clear();
    state_->setText(tr("under way\u2026"));
    show_state();
}

void LightMapBench::ended(const QString& words) {
    const Work was = std::exchange(working_, Work::none);
    found_ = words;
    take();
    if (was == Work::compares)
        emit compared();
    else
        emit baked();
}

void LightMapBench::bake() {
    run(Work::bakes, [](const Scene& scene, const Setup& setup) -> Result<std::unique_ptr<Bake>> {
        auto made = LightMapBake::begin(scene, setup, light_map_options(setup));
        if (!made) return tl::unexpected(made.error());
        return std::move(*made);
    });
}

void LightMapBench::bake_probes() {
    run(Work::probes, [](const Scene& scene, const Setup& setup) -> Result<std::unique_ptr<Bake>> {
        auto made = ProbeGridBake::begin(scene, setup, probe_grid_options(setup));
        if (!made) return tl::unexpected(made.error());
        return std::move(*made);
    });
}

static constexpr float ball_metres = 0.2f; // of a probe that is placed by hand, across

void LightMapBench::place_probe() {
    if (!document_.is_open() || !document_.is_solid() || !uses_probe_grid(document_.project().setup)) return;
    const Project& now = document_.project();
    Shape ball = usual_shape(ShapeKind::ball);
    ball.size = glm::vec3(ball_metres);
    auto make = std::make_shared<Make>();
    make->shape = ball;
    auto things = named_things(*document_.asset(), now.built ? *now.built : Built{}, "light probe", make, 1);
    const std::string name = things.front().name;
    ObjectEdit place{things.front().id, name};
    place.translation = now.view.camera.eye - glm::vec3(0, 0.5f * ball_metres, 0); // balls stand on their underside
    place.hidden = true;
    const bool named = now.setup.choice("grid.at").empty();
    document_.edit(tr("place %1").arg(QString::fromStdString(name)), [&](Project& p) {
        add_things(p.built, things);
        take_edits(p.objects, {place});
        if (named) (void)p.setup.set_text("grid.at", "light probe*");
    });
}

void LightMapBench::run(Work work, BakeTask::Beginning begins) {
    if (working() || !document_.is_open() || !document_.is_solid()) return;
    begin(work);
    bakes_.run(std::move(begins));
}

void LightMapBench::show_grids(const std::vector<std::pair<std::shared_ptr<const ProbeGrid>, ProbeComparison>>& grids) {
    const ProbeReading reading = probe_reading(document_.project().setup);
    const auto used = probe_grid_of(document_.scene(), document_.project().setup);
    table_->setHorizontalHeaderLabels({tr("apart"), tr("MiB"), tr("off"), tr("leak"), tr("unseeing")});
    table_->horizontalHeaderItem(3)->setToolTip(
        tr("What they give too much where next to no light is, over the mean."));
    table_->horizontalHeaderItem(4)->setToolTip(tr("The same if probes did not see."));
    table_->setRowCount(static_cast<int>(grids.size()));
    const auto number = [](double v, int digits) { return QString::fromStdString(number_text(v, digits)); };
    for (int line = 0; line < static_cast<int>(grids.size()); ++line) {
        const auto& [grid, e] = grids[static_cast<std::size_t>(line)];
        const QString cells[] = {grid->placed.empty() ? number(double(grid->options.spacing), 3) + " m" : tr("by hand"),
                                 number(double(grid->bytes(reading.order, reading.visibility)) / (1 << 20), 3),
                                 number(100 * e.with.off, 3) + " %", number(100 * e.with.leak, 2) + " %",
                                 number(100 * e.without.leak, 2) + " %"};
        for (int column = 0; column < 5; ++column) {
            auto* item = new QTableWidgetItem(cells[column]);
            item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            QFont font = item->font();
            font.setBold(grid == used);
            item->setFont(font);
            table_->setItem(line, column, item);
        }
    }
    plot_->hide();
    table_->show();
    reveal(table_);
}

void LightMapBench::compare() {
    if (working() || !document_.is_open() || !document_.is_solid()) return;
    begin(Work::compares);
    const auto tell = [this](auto run) { QMetaObject::invokeMethod(this, run, Qt::QueuedConnection); };
    if (!uses_light_map(document_.project().setup)) {
        task_.ask([this, tell, setup = document_.project().setup,
                   scene = document_.scene()](const NewestTask::GoesOn&) mutable {
            auto whole = with_pictures(scene.asset, whole_);
            if (!whole) return tell([this, words = QString::fromStdString(to_text(whole.error()))] { ended(words); });
            scene.asset = std::move(*whole);
            std::vector<std::pair<std::shared_ptr<const ProbeGrid>, ProbeComparison>> all;
            for (const auto& grid : known_grids(scene, setup))
                all.emplace_back(
                    grid, audit_probes(scene, setup, *grid, probe_reading(setup).order, 1000, 64, [&](double share) {
                        tell([this, share] {
                            if (working_ == Work::compares)
                                state_->setText(tr("%1 % of a grid").arg(100 * share, 0, 'f', 0));
                        });
                        return !stop_;
                    }));
            if (stop_) return tell([this] { ended({}); });
            tell([this, all] {
                show_grids(all);
                ended({});
            });
        });
        return;
    }
    View view = document_.project().view; // a picture of this size tells enough
    if (constexpr int most = 480; view.width > most) {
        view.height = std::max(1, most * view.height / view.width);
        view.width = most;
    }
    task_.ask([this, tell, view, setup = document_.project().setup,
               scene = document_.scene()](const NewestTask::GoesOn&) mutable {
        const auto fails = [&](const Error& e) {
            tell([this, words = QString::fromStdString(to_text(e))] { ended(words); });
        };
        auto whole = with_pictures(scene.asset, whole_);
        if (!whole) return fails(whole.error());
        scene.asset = std::move(*whole);
        if (!worker_) worker_ = std::make_unique<WorkerClient>(options_);
        auto table = light_map_table(*worker_, scene, setup, view, [&](double share) {
            tell([this, share] {
                if (working_ == Work::compares) state_->setText(tr("%1 % compared").arg(100 * share, 0, 'f', 0));
            });
            return !stop_;
        });
        if (!table) return fails(table.error());
        if (stop_) return tell([this] { ended({}); });
        tell([this, made = std::make_shared<const LightMapTable>(std::move(*table))] {
            show_table(made);
            ended({});
        });
    });
}

void LightMapBench::show_table(std::shared_ptr<const LightMapTable> made) {
    table_->setHorizontalHeaderLabels({tr("/m"), tr("kept as"), tr("MiB"), tr("off %"), tr("lit %")});
    table_->horizontalHeaderItem(0)->setToolTip(tr("Texels a metre."));
    table_->horizontalHeaderItem(3)->setToolTip(tr("What the picture is off against the best map's."));
    table_->horizontalHeaderItem(4)->setToolTip(tr("Share of still lights' highlights that is kept."));
    table_->setRowCount(made ? static_cast<int>(made->rows.size()) : 0);
    int line = 0;
    const auto number = [](double v, int digits) { return QString::fromStdString(number_text(v, digits)); };
    static const std::vector<LightMapRow> none;
    for (const LightMapRow& r : made ? made->rows : none) {
        const QString cells[] = {number(double(r.options.density), 3), QString(word(r.kind)) + ", " + word(r.store),
                                 number(double(r.bytes) / (1 << 20), 3), number(100 * r.pictureError, 2),
                                 number(100 * r.highlightKept, 2)};
        for (int column = 0; column < 5; ++column) {
            auto* item = new QTableWidgetItem(cells[column]);
            if (column != 1) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            item->setToolTip(words_of(r));
            if (r.chosen) {
                QFont bold = item->font();
                bold.setBold(true);
                item->setFont(bold);
            }
            table_->setItem(line, column, item);
        }
        ++line;
    }
    plot_->show_table(std::move(made));
    plot_->setVisible(table_->rowCount() > 0);
    table_->setVisible(table_->rowCount() > 0);
    if (table_->rowCount() > 0) reveal(table_);
}

void LightMapBench::take_row(const LightMapRow& row) {
    document_.edit(tr("a way of keeping light"), [&](Project& p) { p.setup = setup_of(row, p.setup); });
    auto next = std::make_shared<LightMapTable>(*plot_->table());
    for (LightMapRow& r : next->rows)
        r.chosen = r.kind == row.kind && r.store == row.store && r.options.density == row.options.density;
    show_table(std::move(next));
}

} // namespace mirolux::app
