#include "app/bake_row.h"
#include "app/benches.h"
#include "core/bake/baked_light.h"
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace mirolux::app {

BakeRow::BakeRow(Document& document, BakeSubject subject, QWidget* parent)
    : QWidget(parent), document_(document), subject_(std::move(subject)), button_(new QPushButton(this)),
      state_(quiet_label({}, this)), task_(document) {
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(0, 6, 0, 0);
    line->setSpacing(6);
    button_->setObjectName(subject_.name);
    state_->setObjectName(subject_.name + " state");
    state_->setWordWrap(true);
    line->addWidget(button_, 0, Qt::AlignTop);
    line->addWidget(state_, 1);
    connect(button_, &QPushButton::clicked, this, &BakeRow::bake);
    connect(&task_, &BakeTask::progressed, state_, &QLabel::setText);
    connect(&task_, &BakeTask::ended, this, [this](const QString& words) {
        found_ = words;
        take();
        emit baked();
    });
    connect(&document_, &Document::opened, this, [this] {
        task_.stop();
        found_.clear();
    });
    connect(&document_, &Document::changed, this, &BakeRow::take);
    take();
}

bool BakeRow::wanted() const {
    return document_.is_open() && document_.is_solid() && subject_.wanted(document_.project().setup);
}

void BakeRow::bake() {
    if (task_.working()) return task_.stop();
    if (!wanted()) return;
    found_.clear();
    state_->setText(tr("under way\u2026"));
    task_.run(subject_.begins);
    take();
}

void BakeRow::take() {
    setVisible(wanted());
    if (!wanted()) return;
    button_->setText(task_.working() ? tr("Stop") : subject_.caption);
    button_->setToolTip(task_.working() ? tr("What is done stays; it goes on from there.") : subject_.tip);
    if (task_.working()) return;
    QString words = subject_.standing(document_.scene(), document_.project().setup);
    if (!found_.isEmpty()) words += (words.isEmpty() ? "" : " ") + found_;
    state_->setText(words);
}

namespace {

QString joined_words(const QString& words, const std::string& remark) {
    return remark.empty() ? words : words + (words.isEmpty() ? "" : " ") + QString::fromStdString(remark);
}

} // namespace

BakeSubject mask_subject() {
    return {"bake masks",
            BakeRow::tr("Bake masks"),
            BakeRow::tr("Rays from every texel to every lamp that stays where it is, beside the window."),
            [](const Setup& setup) { return uses_masks(setup); },
            [](const Scene& scene, const Setup& setup) {
                std::string remark;
                const auto masks = baked_masks_of(scene, setup, density_of_map(scene, setup), &remark);
                QString words;
                if (masks)
                    words = BakeRow::tr("%1 lamps in %2 sheets of %3 x %4 texels; %5 MiB.")
                                .arg(masks->lamps.size())
                                .arg(masks->sheets.size())
                                .arg(masks->width)
                                .arg(masks->height)
                                .arg(double(masks->bytes()) / (1 << 20), 0, 'f', 1);
                return joined_words(words, remark);
            },
            [](const Scene& scene, const Setup& setup) -> Result<std::unique_ptr<Bake>> {
                MaskOptions options = mask_options(setup);
                if (const float density = density_of_map(scene, setup); density > 0) options.density = density;
                auto made = MaskBake::begin(scene, setup, options);
                if (!made) return tl::unexpected(made.error());
                return std::move(*made);
            }};
}

BakeSubject occlusion_subject() {
    return {"bake occlusion",
            BakeRow::tr("Bake occlusion"),
            BakeRow::tr("How open each texel or vertex is, by rays, beside the window."),
            [](const Setup& setup) { return uses_baked_occlusion(setup); },
            [](const Scene& scene, const Setup& setup) {
                std::string remark;
                const auto open = baked_occlusion_of(scene, setup, density_of_parts(scene, setup), &remark);
                QString words;
                if (open)
                    words = (open->options.vertices ? BakeRow::tr("%L1 vertices; %2 MiB.")
                                                    : BakeRow::tr("%L1 texels; %2 MiB."))
                                .arg(static_cast<qulonglong>(open->open.size()))
                                .arg(double(open->open.size()) / (1 << 20), 0, 'f', 1);
                return joined_words(words, remark);
            },
            [](const Scene& scene, const Setup& setup) -> Result<std::unique_ptr<Bake>> {
                OcclusionOptions options = occlusion_options(setup);
                if (const float density = density_of_parts(scene, setup); density > 0) options.density = density;
                auto made = OcclusionBake::begin(scene, setup, options);
                if (!made) return tl::unexpected(made.error());
                return std::move(*made);
            }};
}

} // namespace mirolux::app
