#include "app/clip_row.h"
#include "app/benches.h"
#include "core/motion/scene_at.h"
#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

ClipRow::ClipRow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), strip_(new ClipStrip(document, this)),
      title_(new QLabel(tr("Clips"), this)), facts_(quiet_label({}, this)), rows_(new BenchRows(this)),
      run_(new QPushButton(this)), loop_(new QCheckBox(tr("again and again"), this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->addWidget(title_, 1);
    run_->setObjectName("run time");
    run_->setCheckable(true);
    run_->setToolTip(tr("Lets the scene's time run as it does on a wall: clips play, lights sweep (Shift+I). Pictures "
                        "come as fast as they are drawn."));
    head->addWidget(run_);
    column->addLayout(head);
    column->addWidget(strip_);
    facts_->setObjectName("clip facts");
    column->addWidget(facts_);
    rows_->add(
        tr("Speed, share"),
        {number(tr("speed"), {-10, 10, 0.01, 2, false}, "\u00d7",
                tr("Seconds of the clip in a second of the scene; below 0 it plays backward."), &ClipPlay::speed, 1),
         number(tr("share"), {0, 4, 0.01, 2, false}, "",
                tr("Where two clips move the same thing they are mixed in these shares."), &ClipPlay::share, 1)});
    rows_->add(tr("Begins at"), {number(tr("offset"), {-3600, 3600, 0.02, 2, false}, "s",
                                        tr("Where the clip stands at the scene's 0 s."), &ClipPlay::offset, 0),
                                 loop_});
    loop_->setObjectName("clip loop");
    loop_->setToolTip(tr("It begins anew at its end; else it stops there."));
    column->addWidget(rows_);
    connect(loop_, &QCheckBox::clicked, this,
            [this](bool on) { edit_clip(tr("clip loop"), [on](ClipPlay& c) { c.loop = on; }); });
    connect(strip_, &ClipStrip::clip_chosen, this, &ClipRow::fill);
    connect(strip_, &ClipStrip::toggled, this,
            [this] { edit_clip(tr("clip on or off"), [](ClipPlay& c) { c.on = !c.on; }); });
    connect(run_, &QPushButton::clicked, this, &ClipRow::run_time);
    connect(&document_, &Document::changed, this, &ClipRow::fill);
    connect(&document_, &Document::camera_moved, strip_, qOverload<>(&QWidget::update));
    clock_.setInterval(33); // 30 Hz
    connect(&clock_, &QTimer::timeout, this,
            [this] { document_.set_seconds(from_ + static_cast<double>(since_.elapsed()) * 1e-3); });
    fill();
}

void ClipRow::run_time(bool on) {
    if (on == runs() || !document_.is_open()) return;
    if (on) {
        from_ = document_.project().view.seconds;
        since_.start();
        clock_.start();
    } else
        clock_.stop();
    document_.set_interactive(on);
    if (!on) emit document_.settled();
    fill();
}

NumberField* ClipRow::number(const QString& name, const NumberField::Range& range, const QString& unit,
                             const QString& help, double ClipPlay::*value, double usual) {
    auto* f = new NumberField(range, unit, this);
    f->setObjectName("clip " + name);
    f->setAccessibleName(name);
    f->setToolTip(help);
    f->set_default(usual);
    connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &NumberField::edited, this, [this, name, value](double v) {
        edit_clip(tr("clip %1").arg(name), [value, v](ClipPlay& c) { c.*value = v; });
    });
    numbers_.push_back({f, value});
    return f;
}

void ClipRow::edit_clip(const QString& what, const std::function<void(ClipPlay&)>& change) {
    std::vector<ClipPlay> all = strip_->plays();
    const auto chosen = static_cast<std::size_t>(strip_->clip());
    if (chosen >= all.size()) return;
    change(all[chosen]);
    document_.edit(
        what, [&](Project& p) { p.clips = all; },
        document_.interactive() ? what + QString::fromStdString(all[chosen].clip) : QString());
}

void ClipRow::fill() {
    const bool moves = document_.is_open() && document_.asset()->rig && document_.asset()->rig->moves();
    setVisible(moves);
    if (!moves) {
        clock_.stop();
        return;
    }
    const std::vector<ClipPlay> all = strip_->plays();
    const auto chosen = static_cast<std::size_t>(strip_->clip());
    if (chosen >= all.size()) return strip_->choose(0);
    const ClipPlay& play = all[chosen];
    for (const Number& n : numbers_)
        n.field->set_value(play.*n.value);
    loop_->setChecked(play.loop);
    run_->setText(runs() ? tr("Stop") : tr("Run"));
    run_->setChecked(runs());
    const Scene scene = document_.scene();
    std::size_t moving = 0;
    for (const Moves m : movers(scene))
        moving += m == Moves::byClip;
    const Clip& clip = scene.asset->rig->clips[chosen];
    facts_->setText(tr("%1: %L2 channels. %L3 of %L4 objects move by clips, %L5 are bent.")
                        .arg(QString::fromStdString(clip.name))
                        .arg(clip.channels.size())
                        .arg(moving)
                        .arg(scene.objects().size())
                        .arg(scene.asset->rig->bodies.size()));
    strip_->updateGeometry();
    strip_->update();
}

} // namespace mirolux::app
