#include "app/proxy_row.h"
#include "app/benches.h"
#include <QGridLayout>

namespace mirolux::app {

ProxyRow::ProxyRow(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setSpacing(4);
    facts_ = quiet_label({}, this);
    facts_->setObjectName("proxy facts");
    grid->addWidget(facts_, 0, 0, 1, 3);
    const auto button = [&](const QString& text, const QString& name, const QString& help, int column) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(name);
        b->setToolTip(help);
        grid->addWidget(b, 1, column);
        return b;
    };
    draw_ =
        button(tr("Draw a box"), "draw proxy",
               tr("Drag over a surface of the picture: a box that is not seen and only casts (Shift+N). Its handles "
                  "move, turn and size it."),
               0);
    draw_->setCheckable(true);
    against_ = button(tr("Against none"), "against no proxies",
                      tr("Takes the same without proxies as B: both pictures, both costs."), 1);
    all_ = button(tr("Give up"), "give up proxies",
                  tr("Deletes all proxies, and their objects cast themselves again; undo brings them back."), 2);
    connect(draw_, &QPushButton::toggled, this, &ProxyRow::draw_wanted);
    connect(against_, &QPushButton::clicked, this, &ProxyRow::against_wanted);
    connect(all_, &QPushButton::clicked, this, [this] {
        document_.edit(tr("give up proxies"), [](Project& p) {
            p.objects.change([](std::vector<ObjectEdit>& edits) {
                for (ObjectEdit& e : edits)
                    if (e.casts == Casting::proxied) e.casts = Casting::yes;
                std::erase_if(edits, [](const ObjectEdit& e) { return e.proxy || e.idle(); });
            });
        });
    });
    connect(&document_, &Document::changed, this, &ProxyRow::fill);
    connect(&document_, &Document::opened, this, &ProxyRow::fill);
}

void ProxyRow::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void ProxyRow::fill() {
    if (!document_.is_open() || !isVisible()) return; // filled when it is shown
    std::size_t boxes = 0, replaced = 0, triangles = 0;
    const Scene scene = document_.scene();
    for (const Object& o : scene.objects()) {
        boxes += o.proxy;
        if (o.casts != Casting::proxied) continue;
        ++replaced;
        triangles += scene.asset->primitives[static_cast<std::size_t>(o.primitive)].indices.size() / 3;
    }
    facts_->setText(
        boxes == 0 && replaced == 0
            ? tr("No proxies. Select objects in the Scene station and let boxes cast for them, or draw one.")
        : replaced == 0 ? tr("%L1 boxes cast beside what the scene has.").arg(boxes)
                        : tr("%L1 boxes of %L2 triangles cast in place of %L3 objects of %L4.")
                              .arg(boxes)
                              .arg(boxes * 12)
                              .arg(replaced)
                              .arg(triangles));
    against_->setEnabled(boxes + replaced > 0);
    all_->setEnabled(boxes + replaced > 0);
}

} // namespace mirolux::app
