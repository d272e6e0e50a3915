#include "app/patch_bench.h"
#include "app/benches.h"
#include "core/bake/baked_light.h"
#include "core/base/text.h"
#include "core/flat/flat_import.h"
#include <QElapsedTimer>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

namespace {

ShownPatch shown(const Patch& p, float share) {
    return {p.point.point.position, p.point.across, p.point.down, p.point.point.side, share};
}

ShownShot shown(const PatchBake& bake) {
    const PatchShot& shot = bake.last();
    ShownShot out;
    out.number = shot.number;
    out.unshot = shot.unshot;
    if (shot.patch == no_patch) return out;
    const std::vector<Patch>& patches = bake.patches();
    out.from = shown(patches[shot.patch], 1);
    for (const PatchShot::Lit& lit : shot.lit)
        out.lit.push_back(shown(patches[lit.patch], lit.share));
    return out;
}

} // namespace

PatchBench::PatchBench(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), shoot_(new QPushButton(this)), one_(new QPushButton(tr("One shot"), this)),
      look_(new QPushButton(tr("Look at it"), this)), state_(quiet_label({}, this)), plot_(new PatchPlot(this)),
      task_([] {}) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    shoot_->setObjectName("shoot patches");
    one_->setObjectName("one shot");
    one_->setToolTip(tr("The patch with most light left shoots; the picture outlines it, and marks what it lit."));
    look_->setObjectName("look at patch");
    look_->setToolTip(tr("Moves the camera to where the patch that shot last is seen well (Alt+J)."));
    state_->setObjectName("patch state");
    state_->setWordWrap(true);
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(shoot_);
    line->addWidget(one_);
    line->addWidget(look_);
    column->addLayout(line);
    column->addWidget(state_);
    column->addWidget(plot_);
    connect(shoot_, &QPushButton::clicked, this, &PatchBench::shoot);
    connect(one_, &QPushButton::clicked, this, &PatchBench::one_shot);
    connect(look_, &QPushButton::clicked, this, &PatchBench::look);
    connect(&document_, &Document::opened, this, [this] {
        stop_ = true;
        found_.clear();
        digest_.clear();
        last_ = {};
        plot_->clear();
        emit shot();
    });
    connect(&document_, &Document::changed, this, &PatchBench::take);
    take();
}

PatchBench::~PatchBench() {
    stop_ = true;
    task_.stop();
}

bool PatchBench::wanted() const {
    return document_.is_open() && document_.is_solid() && uses_light_map(document_.project().setup) &&
           light_map_options(document_.project().setup).patches;
}

void PatchBench::take() {
    setVisible(wanted());
    if (!wanted()) {
        if (last_.number > 0) {
            last_ = {};
            emit shot();
        }
        return;
    }
    show_state();
}

void PatchBench::show_state() {
    shoot_->setText(working_ ? tr("Stop") : tr("Shoot"));
    shoot_->setToolTip(working_ ? tr("What is done stays; it goes on from there.")
                                : tr("Patches shoot, the one with most light left first, until little is left; the "
                                     "picture takes the light so far."));
    one_->setEnabled(!working_);
    look_->setEnabled(last_.number > 0);
    if (working_) return;
    QString words;
    if (last_.number > 0)
        words = tr("%L1 patches, %2, %3 % of the light left.")
                    .arg(static_cast<qulonglong>(patches_))
                    .arg(last_.number == 1 ? tr("1 shot") : tr("%L1 shots").arg(static_cast<qulonglong>(last_.number)))
                    .arg(QString::fromStdString(number_text(100 * last_.unshot, 3)));
    else
        words = tr("Each texel is a patch. What lamps give falls on them first; then the brightest shoots.");
    if (!found_.isEmpty()) words += " " + found_;
    state_->setText(words);
}

void PatchBench::shoot() {
    if (working_)
        stop_ = true;
    else
        run(false);
}

void PatchBench::one_shot() {
    if (!working_) run(true);
}

/// Of directions before the patch, the one that is free the farthest.
void PatchBench::look() {
    looks_ = working_;
    if (working_ || last_.number == 0 || !document_.is_open()) return;
    constexpr float farthest = 8; // metres: a patch of a few texels and what lies around it are seen then
    const ShownPatch& patch = last_.from;
    const glm::vec3 across =
        glm::normalize(std::abs(patch.side.y) < 0.9f ? glm::cross(patch.side, glm::vec3(0, 1, 0)) : glm::vec3(1, 0, 0));
    const glm::vec3 along = glm::cross(patch.side, across);
    glm::vec3 best = patch.side;
    float most = 0;
    for (int k = 0; k < 16; ++k) {
        const float turn = glm::radians(22.5f + 45.0f * static_cast<float>(k)), tilt = k < 8 ? 0.8f : 1.7f;
        const glm::vec3 way = glm::normalize(patch.side + tilt * (std::cos(turn) * across + std::sin(turn) * along));
        const RayHit hit = document_.rays().any_surface({patch.middle + 0.01f * patch.side, way}, 0, false);
        const float free = hit.object < 0 ? farthest : std::min(hit.distance, farthest);
        if (free <= most) continue;
        most = free;
        best = way;
    }
    Camera camera = document_.project().view.camera;
    camera.eye = patch.middle + std::max(0.8f * most, 0.2f) * best;
    camera.aim = patch.middle;
    document_.move_camera(camera);
}

void PatchBench::ended(const QString& words) {
    working_ = false;
    found_ = words;
    take();
    if (std::exchange(looks_, false)) look();
    emit rested();
}

void PatchBench::run(bool once) {
    if (!wanted()) return;
    working_ = true;
    stop_ = false;
    found_.clear();
    state_->setText(tr("under way\u2026"));
    show_state();
    // From its thread to the window's.
    const auto tell = [this](auto run) { QMetaObject::invokeMethod(this, run, Qt::QueuedConnection); };
    const Setup setup = document_.project().setup;
    const double rest = setup.number("patches.rest") / 100;
    task_.ask([this, tell, once, rest, setup, scene = document_.scene()](const NewestTask::GoesOn&) mutable {
        const auto fails = [&](const Error& e) {
            bake_.reset();
            tell([this, words = QString::fromStdString(to_text(e))] { ended(words); });
        };
        auto whole = with_pictures(scene.asset, whole_); // the window holds none
        if (!whole) return fails(whole.error());
        scene.asset = std::move(*whole);
        const LightMapOptions options = light_map_options(setup);
        LightMapOptions of = options;
        if (!bake_ || bake_->digest() != light_map_digest(scene, setup, of)) {
            auto made = PatchBake::begin(scene, setup, options, rest);
            if (!made) return fails(made.error());
            bake_ = std::move(*made);
        }
        PatchBake& b = *bake_;
        const auto tells = [&] {
            const std::vector<Patch>& all = b.patches(); // slivers have no area: they belong to others
            const auto patches = static_cast<std::size_t>(
                std::count_if(all.begin(), all.end(), [](const Patch& p) { return p.area > 0; }));
            tell([this, shot = shown(b), patches, rest] {
                last_ = shot;
                patches_ = patches;
                if (shot.number > 0) plot_->add(shot.number, shot.unshot, rest);
                if (working_ && shot.number > 0)
                    state_->setText(tr("%L1 shots, %2 % of the light left")
                                        .arg(static_cast<qulonglong>(shot.number))
                                        .arg(QString::fromStdString(number_text(100 * shot.unshot, 3))));
                emit this->shot();
            });
        };
        const auto keeps = [&]() -> bool {
            if (auto ok = b.keep(); !ok) {
                fails(ok.error());
                return false;
            }
            tell([this] { emit kept(); });
            return true;
        };
        bool over = false;
        while (!stop_ && b.progress().all != 1000 && b.last().number == 0) { // straight light first
            over = b.Bake::work(250, &stop_);
            const BakeProgress p = b.progress();
            tell([this, p] {
                if (working_)
                    state_->setText(tr("straight light on %L1 of %L2 patches")
                                        .arg(static_cast<qulonglong>(p.done))
                                        .arg(static_cast<qulonglong>(p.all)));
            });
            if (over) break;
        }
        over = false;
        if (once && !stop_) {
            b.shoot();
            tells();
        }
        QElapsedTimer since;
        since.start();
        while (!once && !over && !stop_) {
            over = b.work(250, &stop_);
            tells();
            if (over || since.elapsed() < 4000) continue;
            if (!keeps()) return;
            since.restart();
        }
        if (!keeps()) return;
        tells();
        tell([this, words = QString::fromStdString(b.remark())] { ended(words); });
    });
}

} // namespace mirolux::app
