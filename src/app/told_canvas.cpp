#include "app/told_canvas.h"
#include <QLabel>
#include <QScrollArea>
#include <QVBoxLayout>

namespace mirolux::app {

std::function<void(const QString&)> add_told_canvas(QVBoxLayout* column, QWidget* canvas, const QString& rest) {
    auto* area = new QScrollArea;
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setWidget(canvas);
    column->addWidget(area, 1);
    auto* told = new QLabel(rest);
    told->setWordWrap(true);
    told->setFixedHeight(2 * told->fontMetrics().lineSpacing() + 4);
    told->setAlignment(Qt::AlignTop);
    column->addWidget(told);
    return [told, rest](const QString& text) { told->setText(text.isEmpty() ? rest : text); };
}

} // namespace mirolux::app
