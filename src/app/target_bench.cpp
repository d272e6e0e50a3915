#include "app/target_bench.h"
#include "app/benches.h"
#include "app/theme.h"
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace mirolux::app {

namespace {

#define TEXT(words) QT_TRANSLATE_NOOP("mirolux::app::TargetBench", words)
/// One number of a target.
struct TargetNumber {
    const char *label, *unit;
    NumberField::Range range;
    const char* help;
    double (*get)(const Target&);
    void (*put)(Target&, double);
    const char* zero; // shown in place of 0
};

void put_refresh(Target& t, double hz) {
    t.hz = hz;
    t.frameMs = 1000.0 / hz;
}
void put_frame_time(Target& t, double ms) {
    t.frameMs = ms;
    t.hz = 0;
}

const TargetNumber targetNumbers[] = {
    {TEXT("Width"),
     "px",
     {16, 8192, 4, 0, false},
     TEXT("Width of the picture, of one eye: cost grows with its pixels."),
     [](const Target& t) { return double(t.width); },
     [](Target& t, double v) { t.width = static_cast<int>(v); },
     nullptr},
    {TEXT("Height"),
     "px",
     {16, 8192, 4, 0, false},
     TEXT("Height of the picture."),
     [](const Target& t) { return double(t.height); },
     [](Target& t, double v) { t.height = static_cast<int>(v); },
     nullptr},
    {TEXT("Refresh"),
     "Hz",
     {1, 480, 0.5, 1, false},
     TEXT("Refresh rate; the frame time is one period of it."),
     [](const Target& t) { return t.hz; },
     put_refresh,
     TEXT("free")},
    {TEXT("Frame"),
     "ms",
     {0.1, 5000, 0.1, 2, false},
     TEXT("Time of a whole frame, when it does not follow from a refresh rate."),
     [](const Target& t) { return t.frameMs; },
     put_frame_time,
     nullptr},
    {TEXT("Lighting"),
     "%",
     {1, 100, 1, 0, false},
     TEXT("Share of the frame that lighting may take; the rest belongs to what is not rendered here. The budget is "
          "this share of the frame time."),
     [](const Target& t) { return 100 * t.lightingShare; },
     [](Target& t, double v) { t.lightingShare = v / 100; },
     nullptr},
};
#undef TEXT

} // namespace

TargetBench::TargetBench(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column =
        bench_column(this, tr("Targets"), tr("Size, frame time, eyes and device that lighting is held against."));
    make_table();
    column->addWidget(table_);
    auto* judge = new QPushButton(tr("Judge all targets"), this);
    judge->setObjectName("judge targets");
    judge->setToolTip(tr("Measures each target at its own size and eyes; those with a device profile are predicted "
                         "from exact work counters instead."));
    column->addWidget(judge);
    connect(judge, &QPushButton::clicked, this, &TargetBench::judge_wanted);
    add_setup(column);
    column->addWidget(make_rows());
    auto* buttons = new QHBoxLayout;
    auto* add = new QPushButton(tr("Add a target"), this);
    auto* remove = new QPushButton(tr("Delete this one"), this);
    add->setToolTip(tr("A copy of the chosen target, to change."));
    remove->setToolTip(tr("Deletes the chosen target; the last one stays."));
    buttons->addWidget(add);
    buttons->addWidget(remove);
    column->addLayout(buttons);
    column->addStretch();
    auto* back = new QPushButton(tr("Back to the station"), this);
    back->setToolTip(tr("Closes the targets."));
    column->addWidget(back);
    connect(back, &QPushButton::clicked, this, &TargetBench::back_wanted);
    connect(add, &QPushButton::clicked, this,
            [this] { document_.edit(tr("add target"), [](Project& p) { add_target(p); }); });
    connect(remove, &QPushButton::clicked, this,
            [this] { document_.edit(tr("delete target"), [](Project& p) { erase_target(p); }); });
    connect(&document_, &Document::changed, this, [this] { fill(); });
    fill();
}

void TargetBench::make_table() {
    table_ = new QTableWidget(this);
    table_->setObjectName("targets");
    table_->setColumnCount(3);
    table_->setHorizontalHeaderLabels({tr("Target"), tr("Cost of budget"), tr("Verdict")});
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setFocusPolicy(Qt::NoFocus);
    table_->setShowGrid(false);
    table_->setFont(sized(font(), 11));
    table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    table_->setToolTip(tr("Click a target to hold the frame against it. Measured: p95 of this device. Predicted: by "
                          "the target's device profile, with its error bar."));
    connect(table_, &QTableWidget::cellClicked, this,
            [this](int index, int) { document_.edit(tr("target"), [index](Project& p) { choose_target(p, index); }); });
}

/// Changes the chosen target; changes of one name while a field is dragged are one step of undo.
void TargetBench::change(const QString& what, const std::function<void(Target&)>& put, const QString& merge) {
    document_.edit(
        what,
        [&](Project& p) {
            Target& t = p.targets[static_cast<std::size_t>(p.target)];
            put(t);
            p.view = on_target(p.view, t);
        },
        document_.interactive() ? merge : QString());
}

BenchRows* TargetBench::make_rows() {
    auto* rows = new BenchRows(this);
    name_ = new QLineEdit(this);
    name_->setToolTip(tr("The target's name."));
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string text = name_->text().trimmed().toStdString();
        if (!text.empty()) change(tr("target name"), [&](Target& t) { t.name = text; });
    });
    rows->add(tr("Name"), {name_});
    for (const TargetNumber& n : targetNumbers) {
        auto* f = new NumberField(n.range, n.unit, this);
        f->setObjectName(QString("target ") + QString(n.label).toLower());
        f->setToolTip(tr(n.help));
        if (n.zero) f->set_word_for(0, tr(n.zero));
        connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
        connect(f, &NumberField::edited, this, [this, put = n.put](double v) {
            change(
                tr("target"), [&](Target& t) { put(t, v); }, "target");
        });
        numbers_.push_back(f);
        rows->add(tr(n.label), {f});
    }
    stereo_ = new QComboBox(this);
    stereo_->addItems({tr("one picture"), tr("two eyes, two passes"), tr("two eyes, one pass")});
    stereo_->setToolTip(
        tr("Two passes draw everything once for each eye. One pass draws the geometry once into the two layers of its "
           "targets: half the draws, the same pixels. The window shows the left eye."));
    connect(stereo_, &QComboBox::activated, this,
            [this](int i) { change(tr("stereo"), [&](Target& t) { t.stereo = static_cast<Stereo>(i); }); });
    rows->add(tr("Eyes"), {stereo_});
    profile_ = new QComboBox(this);
    profile_->setToolTip(tr("This device: measured. A profile stands in for a device that is not on the desk: "
                            "predicted, never mixed with measured times. mirolux-cli calibrate makes one."));
    connect(profile_, &QComboBox::activated, this, &TargetBench::choose_profile);
    rows->add(tr("Device"), {profile_});
    return rows;
}

/// Whether the chosen target has a setup of its own, what differs on it, and the others' setups to take, a click each.
void TargetBench::add_setup(QVBoxLayout* column) {
    own_ = new QCheckBox(tr("A setup of its own"), this);
    own_->setObjectName("own setup");
    own_->setToolTip(tr("Off: it shares the setup of the other targets, and what is changed changes for all. On: what "
                        "is changed while it is chosen holds on it alone."));
    connect(own_, &QCheckBox::clicked, this, [this](bool on) {
        document_.edit(on ? tr("a setup of its own") : tr("the shared setup"), [on](Project& p) { own_setup(p, on); });
    });
    column->addWidget(own_);
    differs_ = quiet_label({}, this);
    differs_->setObjectName("differs on target");
    column->addWidget(differs_);
    taking_ = new QWidget(this);
    new QHBoxLayout(taking_);
    taking_->layout()->setContentsMargins(0, 0, 0, 0);
    taking_->layout()->setSpacing(4);
    column->addWidget(taking_);
}

void TargetBench::fill_setup() {
    const Project& p = document_.project();
    const Target& t = document_.target();
    own_->setChecked(t.setup.has_value());
    const std::vector<std::string> all = target_differences(p, *document_.asset(), p.target);
    QStringList words;
    for (std::size_t i = 0; i < std::min<std::size_t>(all.size(), 8); ++i)
        words << QString::fromStdString(all[i]);
    if (all.size() > 8) words << tr("and %1 more").arg(all.size() - 8);
    differs_->setText(words.isEmpty() ? (t.setup ? tr("Nothing differs yet: change a setting, or switch lights and "
                                                      "objects off on it (Shift+O).")
                                                 : tr("It shares the others' setup; nothing is off on it (Shift+O)."))
                                      : tr("Differs: %1.").arg(words.join("; ")));
    // A button for each other setup: those that share are one.
    std::vector<int> sources;
    bool shared = false;
    for (int i = 0; i < static_cast<int>(p.targets.size()); ++i) {
        if (i == p.target) continue;
        const bool own = p.targets[static_cast<std::size_t>(i)].setup.has_value();
        if (!own && std::exchange(shared, true)) continue;
        if (setup_on(p, i) == p.setup && own == t.setup.has_value()) continue;
        sources.push_back(i);
    }
    QStringList wanted;
    for (const int i : sources) {
        const Target& other = p.targets[static_cast<std::size_t>(i)];
        wanted << (other.setup ? tr("Setup of %1").arg(QString::fromStdString(other.name)) : tr("The shared setup"));
    }
    if (wanted == takes_ && sources == sources_) return;
    takes_ = wanted;
    sources_ = sources;
    for (QPushButton* b : taking_->findChildren<QPushButton*>())
        b->deleteLater();
    for (std::size_t i = 0; i < sources.size() && i < 3; ++i) {
        auto* b = new QPushButton(wanted[static_cast<int>(i)], taking_);
        b->setObjectName(QString("take setup %1").arg(sources[i]));
        b->setToolTip(tr("The chosen target takes this setup."));
        connect(b, &QPushButton::clicked, this, [this, from = sources[i]] {
            document_.edit(tr("take setup"), [from](Project& project) { take_setup_of(project, from); });
        });
        taking_->layout()->addWidget(b);
    }
    taking_->setVisible(!sources.empty());
}

void TargetBench::choose_profile(int index) {
    std::string wanted = profile_->itemData(index).toString().toStdString();
    if (index + 1 == profile_->count()) {
        const QString path = QFileDialog::getOpenFileName(this, tr("Device profile"), {}, tr("Profiles (*.json)"));
        if (path.isEmpty()) return fill();
        wanted = path.toStdString();
    }
    change(tr("device of the target"), [&](Target& t) { t.profile = wanted; });
}

void TargetBench::show_verdicts(const std::vector<TargetVerdict>& verdicts) {
    verdicts_ = verdicts;
    of_ = document_.project();
    fill();
}

void TargetBench::fill_table() {
    const Project& p = document_.project();
    // Choosing another target changes nothing that was judged: the targets hold their own setups, the others one.
    const auto shared = [](const Project& of) { return of.shared ? *of.shared : of.setup; };
    const bool fresh = !verdicts_.empty() && p.targets == of_.targets && shared(p) == shared(of_) &&
                       p.objects == of_.objects && p.lights == of_.lights && p.motions == of_.motions &&
                       p.clips == of_.clips && p.view.camera == of_.view.camera && p.view.seconds == of_.view.seconds;
    table_->setRowCount(static_cast<int>(p.targets.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const Target& t = p.targets[static_cast<std::size_t>(i)];
        const QString size = QString(t.stereo == Stereo::off ? "%1x%2" : "2 x %1x%2").arg(t.width).arg(t.height);
        QString cost = tr("of %1 ms").arg(budget_ms(t), 0, 'f', 2), verdict = tr("not judged");
        QColor ink = theme().quiet;
        QString help = QString::fromStdString(to_text(t));
        if (static_cast<std::size_t>(i) < verdicts_.size() && fresh) {
            const TargetVerdict& v = verdicts_[static_cast<std::size_t>(i)];
            if (v.predicted)
                cost = tr("%1 of %2 ms\npredicted, %3")
                           .arg(v.ms, 0, 'f', 1)
                           .arg(v.budgetMs, 0, 'f', 2)
                           .arg(QString::fromStdString(v.profile));
            else
                cost = tr("%1 of %2 ms\np95, measured").arg(v.p95, 0, 'f', 1).arg(v.budgetMs, 0, 'f', 2);
            verdict = v.standing == TargetStanding::unsure ? tr("not sure")
                      : v.standing == TargetStanding::over ? tr("over by\n%1 ms").arg(-v.headroomMs(), 0, 'f', 1)
                                                           : tr("inside,\n%1 ms left").arg(v.headroomMs(), 0, 'f', 1);
            ink = v.standing == TargetStanding::over ? theme().alarm : theme().text;
            help += "\n" +
                    (v.predicted ? tr("Predicted %1 ms, error bar %2 to %3%4.")
                                       .arg(v.ms, 0, 'f', 2)
                                       .arg(v.lowMs, 0, 'f', 2)
                                       .arg(v.highMs, 0, 'f', 2)
                                       .arg(v.madeUp ? tr("; the profile is made up") : QString())
                                 : tr("Measured: p50 %1, p95 %2, p99 %3, worst %4 ms; %5 rounds.")
                                       .arg(v.p50, 0, 'f', 2)
                                       .arg(v.p95, 0, 'f', 2)
                                       .arg(v.p99, 0, 'f', 2)
                                       .arg(v.worst, 0, 'f', 2)
                                       .arg(v.rounds)) +
                    "\n" + QString::fromStdString(verdict_words(v));
        }
        int c = 0;
        const std::size_t off = t.offLights.size() + t.offObjects.size();
        const QString own = (t.setup ? tr(", own setup") : QString()) + (off ? tr(", %1 off").arg(off) : QString());
        for (const QString& text : {QString::fromStdString(t.name) + "\n" + size + own, cost, verdict}) {
            auto* item = new QTableWidgetItem(text);
            item->setToolTip(help);
            if (c == 2) item->setForeground(ink);
            table_->setItem(i, c++, item);
        }
        table_->setRowHeight(i, 38);
    }
    table_->setFixedHeight(std::min(8, table_->rowCount()) * 38 + 28);
    table_->selectRow(p.target);
}

void TargetBench::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void TargetBench::fill() {
    if (!document_.is_open() || !isVisible()) return; // filled when it is shown
    fill_table();
    const Target& t = document_.target();
    fill_setup();
    if (!name_->hasFocus()) name_->setText(QString::fromStdString(t.name));
    for (std::size_t i = 0; i < numbers_.size(); ++i)
        numbers_[i]->set_value(targetNumbers[i].get(t));
    stereo_->setCurrentIndex(static_cast<int>(t.stereo));
    profile_->clear();
    profile_->addItem(tr("this device, measured"), QString());
    for (const DeviceProfile& p : shipped_profiles())
        profile_->addItem(tr("%1, made up").arg(QString::fromStdString(p.name)), QString::fromStdString(p.name));
    const QString wanted = QString::fromStdString(t.profile);
    if (profile_->findData(wanted) < 0) profile_->addItem(wanted.section('/', -1), wanted);
    profile_->setCurrentIndex(profile_->findData(wanted));
    profile_->addItem(tr("from a file\u2026"));
}

} // namespace mirolux::app
