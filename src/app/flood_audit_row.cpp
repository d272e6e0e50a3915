#include "app/flood_audit_row.h"
#include "app/benches.h"
#include "core/blocks/block_stage.h"
#include <QElapsedTimer>
#include <QVBoxLayout>

namespace mirolux::app {

FloodAuditRow::FloodAuditRow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), button_(new QPushButton(tr("Hold against a fresh flood"), this)),
      facts_(quiet_label({}, this)), odd_(new QListWidget(this)), task_([] {}) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    button_->setObjectName("audit flood");
    button_->setToolTip(
        tr("Floods the world anew, beside the window, and asks of every cell whether its level is the same "
           "and its neighbours explain it."));
    facts_->setObjectName("flood facts");
    facts_->setWordWrap(true);
    odd_->setObjectName("odd cells");
    odd_->setAccessibleName(tr("Inconsistent cells"));
    odd_->setToolTip(tr("Cells whose level no neighbour explains, whose origin is no lamp, or that do not see where "
                        "their light comes from; a click shows one in the slice."));
    odd_->setMaximumHeight(120);
    odd_->hide();
    column->addWidget(button_);
    column->addWidget(facts_);
    column->addWidget(odd_);
    connect(button_, &QPushButton::clicked, this, &FloodAuditRow::ask);
    connect(odd_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (audit_ && row >= 0 && row < static_cast<int>(audit_->odd.size()))
            emit cell_chosen(audit_->odd[static_cast<std::size_t>(row)].cell);
    });
    connect(&document_, &Document::changed, this, &FloodAuditRow::take);
    take();
}

FloodAuditRow::~FloodAuditRow() {
    task_.stop();
}

/// What was found is of cells and a way that may be others now.
void FloodAuditRow::take() {
    const bool cells = document_.is_open() && document_.is_blocks();
    setVisible(cells && document_.project().setup.choice("blocks.light").starts_with("flood"));
    if (!cells) return;
    const Setup& setup = document_.project().setup;
    const auto of = std::tuple(document_.project().blocks, setup.whole("flood.loss"), setup.choice("blocks.light"));
    if (of == of_) return;
    of_ = of;
    audit_.reset();
    odd_->hide();
    facts_->clear();
    facts_->hide();
}

void FloodAuditRow::ask() {
    if (running_) return;
    running_ = true;
    button_->setEnabled(false);
    facts_->show();
    facts_->setText(tr("flooding anew\u2026"));
    const Setup setup = document_.project().setup;
    task_.ask([this, world = document_.project().blocks, setup, of = of_](const NewestTask::GoesOn&) {
        QElapsedTimer clock;
        clock.start();
        const blocks::FloodOptions options = blocks::flood_options(setup);
        blocks::FloodAudit found = blocks::audit(*blocks::flooded(world, options), world->palette);
        if (blocks::way_of(setup) == blocks::Way::floodOrigin) {
            const blocks::FloodAudit more = blocks::audit(*blocks::origins(world, options), world->palette, options);
            found.wrong += more.wrong;
            found.inconsistent += more.inconsistent;
            found.odd.insert(found.odd.end(), more.odd.begin(), more.odd.end());
        }
        const double ms = static_cast<double>(clock.elapsed());
        QMetaObject::invokeMethod(
            this,
            [this, found, ms, of] {
                running_ = false;
                button_->setEnabled(true);
                if (of == of_)
                    show_audit(found, ms);
                else
                    facts_->hide(); // of cells that are no more
            },
            Qt::QueuedConnection);
    });
}

void FloodAuditRow::show_audit(const blocks::FloodAudit& a, double ms) {
    audit_ = a;
    facts_->show();
    facts_->setText(tr("%L1 cells, in %2 s: %L3 with another level than a fresh flood's, %L4 inconsistent.")
                        .arg(qulonglong(a.cells))
                        .arg(ms / 1000, 0, 'f', 1)
                        .arg(qulonglong(a.wrong))
                        .arg(qulonglong(a.inconsistent)));
    odd_->clear();
    for (const blocks::OddCell& o : a.odd)
        odd_->addItem(
            QString("%1, %2, %3: %4").arg(o.cell.x).arg(o.cell.y).arg(o.cell.z).arg(QString::fromStdString(o.what)));
    odd_->setVisible(!a.odd.empty());
}

} // namespace mirolux::app
