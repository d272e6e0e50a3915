#include "app/benches.h"
#include "app/brush_row.h"
#include "app/choice_row.h"
#include "app/clip_row.h"
#include "app/figures/block_figures.h"
#include "app/figures/stage_figures.h"
#include "app/group_row.h"
#include "app/make_blocks_row.h"
#include "app/shape_tray.h"
#include "app/theme.h"
#include "core/base/text.h"
#include <QApplication>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>

namespace mirolux::app {

QVBoxLayout* bench_column(QWidget* bench, const QString& title, const QString& line) {
    auto* column = new QVBoxLayout(bench);
    column->setContentsMargins(12, 10, 8, 10);
    column->setSpacing(8);
    if (!title.isEmpty()) {
        auto* heading = new QLabel(title, bench);
        heading->setObjectName("title");
        column->addWidget(heading);
    }
    if (!line.isEmpty()) column->addWidget(quiet_label(line, bench));
    return column;
}

QLabel* quiet_label(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setObjectName("quiet");
    label->setWordWrap(true);
    return label;
}

void reveal(QWidget* widget) {
    QTimer::singleShot(0, widget, [widget] {
        for (QWidget* w = widget->parentWidget(); w; w = w->parentWidget())
            if (auto* scroll = qobject_cast<QScrollArea*>(w)) return scroll->ensureWidgetVisible(widget);
    });
}

// Scene

SceneBench::SceneBench(Document& document, const RenderBridge& bridge, double watchdogSeconds, QWidget* parent)
    : QWidget(parent) {
    auto* column = bench_column(this, tr("Scene"));
    Figure *plan = make_figure("Scene", document, bridge, this),
           *slice = make_block_figure("Scene", document, bridge, this);
    column->addWidget(plan);
    column->addWidget(slice);
    column->addWidget(new BrushRow(document, this));
    auto* build = new QLabel(tr("Build"), this);
    build->setObjectName("build heading");
    column->addWidget(build);
    column->addWidget(new ShapeTray(this));
    column->addWidget(new ClipRow(document, this));
    column->addWidget(new MakeBlocksRow(document, this));
    auto* facts = quiet_label({}, this);
    column->addWidget(facts);
    auto* objects = new QPushButton(tr("Objects, with their costs"), this);
    objects->setObjectName("objects");
    objects->setToolTip(
        tr("The list of objects: found by name, ordered by cost, placed and hidden (V). Or click one in "
           "the picture."));
    connect(objects, &QPushButton::clicked, this, &SceneBench::objects_wanted);
    column->addWidget(objects);
    column->addWidget(new QLabel(tr("Cameras"), this));
    auto* cameras = new QListWidget(this);
    cameras->setObjectName("cameras");
    cameras->setToolTip(tr("Click a camera to look through it."));
    cameras->setMaximumHeight(116);
    column->addWidget(cameras);
    auto* keep = new QPushButton(tr("Keep this view as a camera"), this);
    keep->setToolTip(tr("Adds the present view to the project's cameras."));
    column->addWidget(keep);
    auto* rows = new BenchRows(this);
    const auto offered = [&](const QString& label, const QString& name, const QString& help,
                             std::vector<std::string> SceneAsset::*names, std::string SceneChoice::*chosen,
                             std::size_t least) {
        auto* row = new ChoiceRow({QString()}, this);
        row->setObjectName(name);
        row->setAccessibleName(label);
        row->setToolTip(help);
        rows->add(label, {row}, [&document, names, least] {
            return document.is_open() && ((*document.asset()).*names).size() > least;
        });
        // Variants may be left as the file has them; one of the scenes is always shown.
        const int first = least == 0 ? 1 : 0;
        connect(row, &ChoiceRow::chosen, this, [&document, label, names, chosen, first](int i) {
            const auto& all = (*document.asset()).*names;
            const std::string word = i < first ? std::string() : all[static_cast<std::size_t>(i - first)];
            document.edit(tr("%1: %2").arg(label, word.empty() ? tr("as in the file") : QString::fromStdString(word)),
                          [&](Project& p) { p.choice.*chosen = word; });
        });
        const auto take = [&document, row, names, chosen, first] {
            if (!document.is_open()) return;
            const SceneAsset& asset = *document.asset();
            QStringList words;
            if (first > 0) words << tr("as in the file");
            for (const std::string& n : asset.*names)
                words << QString::fromStdString(n);
            if (!words.isEmpty() && words != row->words()) row->set_words(words);
            const std::string& own = document.project().choice.*chosen;
            row->set_current(!own.empty() ? static_cast<int>(words.indexOf(QString::fromStdString(own)))
                             : first > 0  ? 0
                                          : asset.sceneShown);
        };
        connect(&document, &Document::changed, this, take);
        take();
    };
    offered(tr("Scene of the file"), "file scenes", tr("The file holds several scenes: which one is shown."),
            &SceneAsset::sceneNames, &SceneChoice::scene, 1);
    offered(tr("Variant"), "file variants", tr("In which of the file's sets of materials its things are shown."),
            &SceneAsset::variantNames, &SceneChoice::variant, 0);
    auto* seconds = new NumberField({0, 3600, 0.05, 2, false}, "s", this);
    seconds->setObjectName("seconds");
    seconds->setToolTip(tr("Scene time: plays clips, moves the lights that sweep, shuttle or blink. Pull sideways, or "
                           "double-click to type."));
    rows->add(tr("Scene time"), {seconds});
    auto* watchdog = new NumberField({2, 3600, 0.01, 0, true}, "s", this);
    watchdog->setObjectName("watchdog");
    watchdog->set_value(watchdogSeconds);
    watchdog->setToolTip(
        tr("How long the worker may give no sign of life before it is ended and started again. A single "
           "long draw gives none while it runs: raise this for very large or slow pictures."));
    connect(watchdog, &NumberField::edited, this, &SceneBench::watchdog_changed);
    rows->add(tr("Worker's silence"), {watchdog});
    auto* kept = new ChoiceRow({QString()}, this);
    kept->setObjectName("kept setups");
    kept->setAccessibleName(tr("Kept setups"));
    kept->setToolTip(tr("Setups that the project keeps under a name: a click takes one, as one step to undo."));
    rows->add(tr("Kept setups"), {kept},
              [&document] { return document.is_open() && !document.project().setups.empty(); });
    column->addWidget(rows);
    column->addWidget(new QLabel(tr("Notes from reading the file"), this));
    auto* warnings = quiet_label({}, this);
    column->addWidget(warnings);
    column->addStretch();

    auto fill = [&document, facts, cameras, warnings, seconds, kept, rows, plan, slice, objects] {
        if (!document.is_open()) return;
        plan->setVisible(!document.is_blocks());
        objects->setVisible(!document.is_blocks());
        slice->setVisible(document.is_blocks());
        const SceneAsset& a = *document.asset();
        const Project& p = document.project();
        facts->setText(
            tr("%1\n%L2 triangles, %3, %4\n%5, %6")
                .arg(QString::fromStdString(p.scenePath).section('/', -1))
                .arg(a.triangles())
                .arg(a.objects.size() == 1 ? tr("1 object") : tr("%L1 objects").arg(a.objects.size()),
                     a.materials.size() == 2 ? tr("1 material") : tr("%1 materials").arg(a.materials.size() - 1))
                .arg(p.lights.size() == 1 ? tr("1 light") : tr("%1 lights").arg(p.lights.size()),
                     p.motions.empty() ? tr("none of them moves")
                                       : tr("%1 of them move or switch").arg(p.motions.size())));
        if (p.blocks) {
            const glm::ivec3 size = p.blocks->still.size();
            facts->setText(
                tr("%1\n%2 \u00d7 %3 \u00d7 %4 cells of %5 m, %6, %7\n%L8 chunks, %9 MiB of cells")
                    .arg(QString::fromStdString(p.scenePath).section('/', -1))
                    .arg(size.x)
                    .arg(size.y)
                    .arg(size.z)
                    .arg(p.blocks->edge)
                    .arg(tr("%1 materials").arg(p.blocks->palette.size() - 1))
                    .arg(p.blocks->props.size() == 1 ? tr("1 prop") : tr("%1 props").arg(p.blocks->props.size()))
                    .arg(p.blocks->still.chunk_count())
                    .arg(double(p.blocks->still.bytes()) / 1048576, 0, 'f', 1));
        }
        cameras->setVisible(!p.cameras.empty());
        const QSignalBlocker quiet(cameras);
        if (cameras->count() != static_cast<int>(p.cameras.size())) {
            cameras->clear();
            for (const Camera& c : p.cameras)
                cameras->addItem(QString::fromStdString(c.name));
        }
        QStringList lines;
        for (const std::string& w : document.warnings())
            lines << QString::fromStdString(w);
        warnings->setText(lines.isEmpty() ? tr("None: everything in the file is used.") : lines.mid(0, 12).join("\n"));
        seconds->set_value(p.view.seconds);
        QStringList names;
        int present = -1;
        for (const auto& [name, setup] : p.setups) {
            if (setup == p.setup && present < 0) present = static_cast<int>(names.size());
            names << QString::fromStdString(name);
        }
        if (!names.isEmpty() && names != kept->words()) kept->set_words(names);
        kept->set_current(present);
        rows->show_what_applies();
    };
    connect(&document, &Document::changed, this, fill);
    connect(&document, &Document::camera_moved, this,
            [&document, seconds] { seconds->set_value(document.project().view.seconds); });
    connect(cameras, &QListWidget::itemClicked, this, [&document, cameras](QListWidgetItem* item) {
        document.move_camera(document.project().cameras[static_cast<std::size_t>(cameras->row(item))]);
        emit document.settled();
    });
    connect(kept, &ChoiceRow::chosen, this, [&document](int i) {
        const auto& [name, setup] = document.project().setups[static_cast<std::size_t>(i)];
        document.edit(tr("setup %1").arg(QString::fromStdString(name)),
                      [setup = setup](Project& p) { p.setup = setup; });
    });
    connect(keep, &QPushButton::clicked, this, [&document] {
        document.edit(tr("keep camera"), [](Project& p) {
            Camera c = p.view.camera;
            c.name = "view " + std::to_string(p.cameras.size() + 1);
            p.cameras.push_back(c);
        });
    });
    connect(seconds, &NumberField::scrubbing, this, [&document](bool on) { document.set_interactive(on); });
    connect(seconds, &NumberField::edited, this, [&document](double v) {
        document.set_seconds(v);
        if (!document.interactive()) emit document.settled();
    });
    fill();
}

// Lights

LightsBench::LightsBench(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* column = bench_column(this, tr("Lights"));
    count_ = quiet_label({}, this);
    column->addWidget(count_);
    figure_ = new LightsFigure(document_, this);
    column->addWidget(figure_);
    auto* several = new SeveralLights(document_, selection_, this);
    connect(several, &SeveralLights::isolate_wanted, this, &LightsBench::isolate_wanted);
    connect(several, &SeveralLights::delete_wanted, this, &LightsBench::delete_wanted);
    connect(several, &SeveralLights::off_here_wanted, this, &LightsBench::off_here_wanted);
    column->addWidget(several);
    add_ = new QWidget(this);
    auto* add = new QHBoxLayout(add_);
    add->setContentsMargins(0, 0, 0, 0);
    add->setSpacing(4);
    for (const auto& [type, text] :
         {std::pair(LightType::point, tr("Add point")), std::pair(LightType::spot, tr("Add spot")),
          std::pair(LightType::directional, tr("Add directional"))}) {
        auto* button = new QPushButton(text, this);
        button->setToolTip(tr("Adds a light in the middle of the picture, where it meets a surface."));
        connect(button, &QPushButton::clicked, this, [this, type = type] { emit add_wanted(type); });
        add->addWidget(button);
    }
    auto* cheap = new QPushButton(tr("Cheap lights"), this);
    cheap->setObjectName("cheap lights wanted");
    cheap->setToolTip(tr("Light by colour ramps and tinted shapes, beside the lamps that it stands for (Shift+L)."));
    connect(cheap, &QPushButton::clicked, this, &LightsBench::cheap_wanted);
    column->addWidget(add_);
    column->addWidget(cheap);
    connect(&document_, &Document::changed, this, [this, cheap] { // of a Solid stage
        figure_->setVisible(document_.is_solid());
        cheap->setVisible(document_.is_solid());
        add_->setVisible(!document_.is_blocks());
    });
    filter_ = new QLineEdit(this);
    filter_->setObjectName("find lights");
    filter_->setAccessibleName(tr("Find lights"));
    filter_->setPlaceholderText(tr("Find by name: a part of it, or * and ?"));
    filter_->setClearButtonEnabled(true);
    filter_->setToolTip(tr("Shows the lights whose name matches; Enter selects them all."));
    column->addWidget(filter_);
    add_choosers(column);
    list_ = new QListWidget(this);
    list_->setObjectName("lights");
    list_->setUniformItemSizes(true);
    list_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    list_->setToolTip(
        tr("Click a light to select it; the box switches it on and off. With Ctrl or Shift several, whose sum the "
           "figure shows."));
    list_->setMinimumHeight(150);
    column->addWidget(list_, 1);
    column->addWidget(new GroupRow(document_, selection_, this));
    std::vector<std::string> keys = {"light.window", "light.threshold", "light.fadeInner", "light.fadeOuter"};
    for (const Setting& s : all_settings())
        if (s.station == "Lights" && s.stages == Stages::blocks) keys.push_back(s.key);
    column->addWidget(new SettingRows(document, keys, this));
    connect(filter_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(list_, &QListWidget::itemSelectionChanged, this, &LightsBench::picked);
    connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        if (list_->selectedItems().size() == 1 && QApplication::keyboardModifiers() == Qt::NoModifier)
            emit light_picked(item->data(Qt::UserRole).toInt());
    });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (filling_) return;
        const bool on = item->checkState() == Qt::Checked;
        document_.edit_light(on ? tr("switch on") : tr("switch off"), item->data(Qt::UserRole).toInt(),
                             [on](Light& l) { l.enabled = on; });
    });
    connect(filter_, &QLineEdit::returnPressed, this, [this] {
        const std::string pattern = filter_->text().trimmed().toStdString();
        if (!pattern.empty()) select([&](const Light& l) { return name_matches(l.name, pattern); });
    });
    connect(&document_, &Document::changed, this, [this] {
        if (!document_.interactive()) fill();
    });
    connect(&document_, &Document::opened, this, [this] { ledger_.reset(); });
    connect(&selection_, &Selection::changed, this, &LightsBench::fill);
    fill();
}

/// Which lights, in a word: by type, by cost, by what shines.
void LightsBench::add_choosers(QVBoxLayout* column) {
    auto* choose = new QComboBox(this);
    choose->setObjectName("select lights");
    choose->setAccessibleName(tr("Select lights"));
    choose->setToolTip(tr("Selects lights by what they are or cost, to be edited together. Or Ctrl-drag a band in the "
                          "picture, or Shift-click."));
    choose->addItems({tr("Select\u2026"), tr("all"), tr("points"), tr("spots"), tr("directional ones"),
                      tr("those that are on"), tr("the ten costliest in this view"),
                      tr("those that cost and give under 0.1 %"), tr("the rest")});
    connect(choose, &QComboBox::activated, this, [this, choose](int i) {
        choose->setCurrentIndex(0);
        std::vector<int> costliest, idle;
        if (ledger_)
            for (const std::size_t row : ordered(*ledger_, LedgerOrder::cost)) {
                const LedgerRow& r = ledger_->rows[row];
                if (r.evaluations > 0 && costliest.size() < 10) costliest.push_back(r.light);
                if (r.evaluations > 0 && r.contributionShare < 0.001) idle.push_back(r.light);
            }
        const auto in = [](const std::vector<int>& list, const Light& l) {
            return std::find(list.begin(), list.end(), l.id) != list.end();
        };
        const std::vector<int> before = selection_.lights();
        select([&](const Light& l) {
            switch (i) {
            case 2:
                return l.type == LightType::point;
            case 3:
                return l.type == LightType::spot;
            case 4:
                return l.type == LightType::directional;
            case 5:
                return l.enabled;
            case 6:
                return in(costliest, l);
            case 7:
                return in(idle, l);
            case 8:
                return !in(before, l);
            default:
                return i == 1;
            }
        });
    });
    column->addWidget(choose);
}

void LightsBench::select(const std::function<bool(const Light&)>& wanted) {
    std::vector<int> ids;
    for (const Light& l : document_.project().lights)
        if (wanted(l)) ids.push_back(l.id);
    selection_.set_lights(std::move(ids));
}

/// Several lights in the figure; one has a bench of its own.
void LightsBench::picked() {
    if (filling_) return;
    std::vector<int> ids;
    for (const QListWidgetItem* item : list_->selectedItems())
        ids.push_back(item->data(Qt::UserRole).toInt());
    figure_->set_lights(summed_ = ids.size() > 1 ? ids : std::vector<int>());
    // A click on one alone opens its bench, which the click itself says.
    if (ids.size() != 1 || QApplication::keyboardModifiers() != Qt::NoModifier) emit list_picked(ids);
}

/// A list that nobody sees is filled when it is shown: edits are answered sooner.
void LightsBench::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void LightsBench::fill() {
    if (!document_.is_open() || !isVisible()) return;
    filling_ = true;
    const std::string wanted = filter_->text().trimmed().toStdString();
    std::vector<const Light*> shown;
    int on = 0;
    for (const Light& l : document_.project().lights) {
        on += l.enabled;
        if (wanted.empty() || name_matches(l.name, wanted)) shown.push_back(&l);
    }
    while (list_->count() > static_cast<int>(shown.size()))
        delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(shown.size()))
        list_->addItem(new QListWidgetItem);
    for (int i = 0; i < static_cast<int>(shown.size()); ++i) {
        const Light& l = *shown[static_cast<std::size_t>(i)];
        QListWidgetItem* item = list_->item(i);
        const QString text = QString("%1   %2 %3")
                                 .arg(QString::fromStdString(l.name),
                                      QString::fromStdString(number_text(intensity_in(l, l.unit), 3)), word(l.unit));
        if (item->text() != text) item->setText(text);
        if (item->data(Qt::UserRole).toInt() != l.id ||
            item->checkState() != (l.enabled ? Qt::Checked : Qt::Unchecked) ||
            !(item->flags() & Qt::ItemIsUserCheckable)) {
            item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
            item->setData(Qt::UserRole, l.id);
            item->setCheckState(l.enabled ? Qt::Checked : Qt::Unchecked);
        }
    }
    for (int i = 0; i < list_->count(); ++i)
        if (const bool chosen = selection_.has_light(list_->item(i)->data(Qt::UserRole).toInt());
            list_->item(i)->isSelected() != chosen)
            list_->item(i)->setSelected(chosen);
    add_->setVisible(selection_.lights().size() < 2 && !document_.is_blocks()); // several: what they can stands there
    count_->setVisible(selection_.lights().size() < 2);
    if (const std::vector<int> summed = selection_.lights().size() > 1 ? selection_.lights() : std::vector<int>();
        summed != summed_)
        figure_->set_lights(summed_ = summed);
    const std::size_t all = document_.project().lights.size();
    count_->setText(document_.is_blocks()
                        ? tr("The sun or the moon; lamps are cells, put and taken away by the brush at "
                             "the Scene station.")
                        : tr("%1, %2 on. Click one here or in the picture; drag its handles.")
                              .arg(all == 1 ? tr("1 light") : tr("%1 lights").arg(all))
                              .arg(on));
    filling_ = false;
}

// Settings

SettingsBench::SettingsBench(Document& document, const RenderBridge& bridge, const QString& title, const QString& line,
                             const QString& station, QWidget* parent)
    : QWidget(parent) {
    auto* column = column_ = bench_column(this, title, line);
    std::vector<std::string> edited;
    if (Figure* figure = make_figure(station, document, bridge, this)) {
        column->addWidget(figure);
        edited = figure->edits();
        if (station != "Finish")
            connect(&document, &Document::changed, figure,
                    [&document, figure] { figure->setVisible(document.is_solid()); });
        connect(figure, &Figure::pass_wanted, this, &SettingsBench::pass_wanted);
    }
    // A figure is of one stage: that of another makes room.
    if (Figure* flat = make_flat_figure(station, document, bridge, this)) {
        column->addWidget(flat);
        connect(&document, &Document::changed, flat, [&document, flat] { flat->setVisible(document.is_flat()); });
    }
    if (Figure* cells = make_block_figure(station, document, bridge, this)) {
        column->addWidget(cells);
        connect(&document, &Document::changed, cells, [&document, cells] { cells->setVisible(document.is_blocks()); });
    }
    std::vector<std::string> keys;
    for (const Setting& s : all_settings())
        if (s.station == station.toStdString() && std::find(edited.begin(), edited.end(), s.key) == edited.end())
            keys.push_back(s.key);
    column->addWidget(remark_ = new QLabel(this));
    remark_->setObjectName("remark");
    remark_->setWordWrap(true);
    remark_->hide();
    column->addWidget(rows_ = new SettingRows(document, keys, this));
    facts_ = quiet_label({}, this);
    column->addWidget(facts_);
    column->addStretch();
}

void SettingsBench::add_row(QWidget* row) {
    column_->insertWidget(column_->indexOf(rows_), row);
}

void SettingsBench::set_facts(const QString& text) {
    facts_->setText(text);
}

void SettingsBench::set_remark(const QString& text) {
    remark_->setText(text);
    remark_->setVisible(!text.isEmpty());
}

} // namespace mirolux::app
