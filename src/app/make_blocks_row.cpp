#include "app/make_blocks_row.h"
#include "app/benches.h"
#include "core/blocks/make_blocks.h"
#include "core/flat/flat_import.h"
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace mirolux::app {

MakeBlocksRow::MakeBlocksRow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), edge_(new NumberField({0.05, 4, 0.02, 2, true}, "m", this)),
      button_(new QPushButton(tr("Make blocks of it\u2026"), this)), facts_(quiet_label({}, this)), task_([] {}) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    button_->setObjectName("make blocks");
    button_->setToolTip(
        tr("A Blocks world of every surface, in the colours that it shows; lamps become cells that shine "
           "(Shift+V). It is saved as a file of its own and opened."));
    edge_->setObjectName("block edge");
    edge_->setAccessibleName(tr("Edge of a cell"));
    edge_->setToolTip(tr("Edge of a cell: half of it is eight times the cells."));
    edge_->set_value(0.25);
    edge_->set_default(0.25);
    connect(edge_, &NumberField::edited, this, [this](double v) { edge_->set_value(v); });
    row->addWidget(button_, 2);
    row->addWidget(edge_, 1);
    column->addLayout(row);
    facts_->setObjectName("blocks made");
    facts_->setWordWrap(true);
    facts_->hide();
    column->addWidget(facts_);
    connect(button_, &QPushButton::clicked, this, &MakeBlocksRow::path_wanted);
    connect(&document_, &Document::changed, this, &MakeBlocksRow::take);
    take();
}

MakeBlocksRow::~MakeBlocksRow() {
    task_.stop();
}

void MakeBlocksRow::take() {
    setVisible(document_.is_open() && document_.is_solid());
}

void MakeBlocksRow::tell(const QString& text) {
    facts_->setText(text);
    facts_->setVisible(!text.isEmpty());
}

void MakeBlocksRow::make(const QString& path) {
    if (running_ || path.isEmpty()) return;
    running_ = true;
    button_->setEnabled(false);
    tell(tr("reading textures\u2026"));
    task_.ask([this, path, scene = document_.scene(),
               edge = static_cast<float>(edge_->value())](const NewestTask::GoesOn& goes_on) {
        const auto later = [this](auto what) {
            QMetaObject::invokeMethod(this, std::move(what), Qt::QueuedConnection);
        };
        const auto ends = [&](const QString& words, bool well) {
            later([this, words, well, path] {
                running_ = false;
                button_->setEnabled(true);
                tell(words);
                if (well) emit made(path);
            });
        };
        Scene whole = scene; // the window holds no pictures
        std::shared_ptr<const SceneAsset> read;
        auto pictured = with_pictures(scene.asset, read);
        if (!pictured) return ends(QString::fromStdString(to_text(pictured.error())), false);
        whole.asset = std::move(*pictured);
        int told = -1;
        auto contents = blocks::make_blocks(whole, {edge, true, 192}, [&](double share) {
            if (const int percent = static_cast<int>(100 * share); percent != told) {
                told = percent;
                later([this, percent] { tell(tr("cells: %1 %").arg(percent)); });
            }
            return goes_on();
        });
        if (!goes_on()) return;
        if (!contents) return ends(QString::fromStdString(to_text(contents.error())), false);
        if (auto ok = blocks::write_blocks(*contents, path.toStdString()); !ok)
            return ends(QString::fromStdString(to_text(ok.error())), false);
        const glm::ivec3 size = contents->world.still.size();
        ends(tr("%1 x %2 x %3 cells").arg(size.x).arg(size.y).arg(size.z), true);
    });
}

} // namespace mirolux::app
