#include "app/group_row.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <unordered_set>

namespace mirolux::app {

GroupRow::GroupRow(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    groups_ = new QComboBox(this);
    groups_->setObjectName("groups");
    groups_->setAccessibleName(tr("Groups"));
    groups_->setEditable(true);
    groups_->setInsertPolicy(QComboBox::NoInsert);
    groups_->lineEdit()->setPlaceholderText(tr("groups"));
    groups_->setToolTip(tr("Choose a group to select what is in it; type over its name to rename it."));
    row->addWidget(groups_, 1);
    keep_ = new QPushButton(tr("Keep as group"), this);
    keep_->setObjectName("keep group");
    keep_->setToolTip(tr("Keeps what is selected, lights and objects, under a name."));
    row->addWidget(keep_);
    remove_ = new QPushButton(tr("Forget"), this);
    remove_->setObjectName("forget group");
    remove_->setToolTip(tr("Forgets the chosen group; what is in it stays."));
    row->addWidget(remove_);
    connect(groups_, &QComboBox::activated, this, &GroupRow::select);
    connect(groups_->lineEdit(), &QLineEdit::editingFinished, this, [this] {
        const std::string name = groups_->currentText().trimmed().toStdString();
        if (chosen_ < 0 || name.empty()) return fill();
        document_.edit(tr("rename group"),
                       [&](Project& p) { p.groups[static_cast<std::size_t>(chosen_)].name = name; });
    });
    connect(keep_, &QPushButton::clicked, this, [this] {
        Group g;
        g.name = "group " + std::to_string(document_.project().groups.size() + 1);
        g.lights = selection_.lights();
        for (const int o : selection_.objects())
            g.objects.push_back(document_.object_name(o).id);
        chosen_ = static_cast<int>(document_.project().groups.size());
        document_.edit(tr("keep group"), [&](Project& p) { p.groups.push_back(g); });
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        if (chosen_ < 0) return;
        const int gone = std::exchange(chosen_, -1);
        document_.edit(tr("forget group"), [gone](Project& p) { p.groups.erase(p.groups.begin() + gone); });
    });
    connect(&document_, &Document::changed, this, &GroupRow::fill);
    connect(&document_, &Document::opened, this, [this] { chosen_ = -1; });
    connect(&selection_, &Selection::changed, this, &GroupRow::fill);
    fill();
}

void GroupRow::select(int index) {
    chosen_ = index;
    const Group& g = document_.project().groups[static_cast<std::size_t>(index)];
    std::vector<int> objects;
    const std::unordered_set<std::string> wanted(g.objects.begin(), g.objects.end());
    for (int o = 0; o < document_.object_count(); ++o)
        if (wanted.count(document_.object_name(o).id)) objects.push_back(o);
    selection_.set(g.lights, std::move(objects));
    fill();
}

void GroupRow::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    fill();
}

void GroupRow::fill() {
    if (!document_.is_open() || !isVisible()) return; // filled when it is shown
    const auto& groups = document_.project().groups;
    if (chosen_ >= static_cast<int>(groups.size())) chosen_ = -1;
    if (!groups_->lineEdit()->hasFocus()) {
        const QSignalBlocker quiet(groups_);
        groups_->clear();
        for (const Group& g : groups)
            groups_->addItem(QString::fromStdString(g.name));
        groups_->setCurrentIndex(chosen_);
        if (chosen_ < 0) groups_->lineEdit()->clear();
    }
    keep_->setEnabled(!selection_.empty());
    remove_->setEnabled(chosen_ >= 0);
}

} // namespace mirolux::app
