#include "app/bench_rows.h"
#include "app/theme.h"
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <algorithm>

namespace mirolux::app {

BenchRows::BenchRows(QWidget* parent) : QWidget(parent), grid_(new QGridLayout(this)) {
    grid_->setContentsMargins(0, 0, 0, 0);
    grid_->setHorizontalSpacing(8);
    grid_->setVerticalSpacing(5);
    grid_->setColumnStretch(1, 1);
}

void BenchRows::add(const QString& label, const std::vector<QWidget*>& controls, const std::function<bool()>& when) {
    auto* text = new QLabel(label, this);
    text->setToolTip(controls.front()->toolTip());
    text->setBuddy(controls.front());
    for (QWidget* control : controls) // what stands beside it is what it is called
        if (control->accessibleName().isEmpty())
            control->setAccessibleName(controls.size() > 1 && !control->objectName().isEmpty() ? control->objectName()
                                                                                               : label);
    QWidget* content = controls.front();
    if (controls.size() > 1) {
        content = new QWidget(this);
        auto* line = new QHBoxLayout(content);
        line->setContentsMargins(0, 0, 0, 0);
        line->setSpacing(4);
        for (QWidget* control : controls)
            line->addWidget(control);
    }
    const int row = grid_->rowCount();
    grid_->addWidget(text, row, 0);
    grid_->addWidget(content, row, 1);
    rows_.push_back({when, {text, content}});
}

void BenchRows::add_heading(const QString& text) {
    auto* label = new QLabel(text, this);
    label->setObjectName("heading");
    label->setFont(sized(font(), 13, QFont::DemiBold));
    label->setContentsMargins(0, headings_.empty() ? 0 : 8, 0, 0);
    grid_->addWidget(label, grid_->rowCount(), 0, 1, 2);
    headings_.push_back({label, rows_.size()});
}

void BenchRows::show_what_applies() {
    std::vector<char> shown;
    for (const Row& row : rows_) {
        shown.push_back(!row.when || row.when());
        if (row.when)
            for (QWidget* widget : row.widgets)
                widget->setVisible(shown.back());
    }
    for (std::size_t h = 0; h < headings_.size(); ++h) {
        const std::size_t end = h + 1 < headings_.size() ? headings_[h + 1].first : rows_.size();
        headings_[h].label->setVisible(std::any_of(shown.begin() + static_cast<std::ptrdiff_t>(headings_[h].first),
                                                   shown.begin() + static_cast<std::ptrdiff_t>(end),
                                                   [](char on) { return on; }));
    }
}

QPushButton* add_button(QGridLayout* grid, int columns, const QString& text, const QString& name, const QString& help,
                        const std::function<void()>& run) {
    auto* b = new QPushButton(text, grid->parentWidget());
    b->setObjectName(name);
    b->setToolTip(help);
    QObject::connect(b, &QPushButton::clicked, b, run);
    grid->addWidget(b, grid->count() / columns, grid->count() % columns);
    return b;
}

} // namespace mirolux::app
