#pragma once
#include <QLineEdit>
#include <QWidget>

namespace mirolux::app {

/// A number with its unit that is dragged sideways, typed (double click or Enter) or stepped with the arrow keys.
class ScrubField : public QWidget {
    Q_OBJECT
public:
    struct Range {
        double low = 0, high = 1;
        double step = 0.01; // a pixel's worth; for logarithmic fields a ratio
        int decimals = 2;
        bool logarithmic = false;
    };
    ScrubField(const Range& range, const QString& unit, QWidget* parent = nullptr);
    void set_value(double value); // no signal
    double value() const { return value_; }
    /// Text shown in place of a value (range 0: "unbounded").
    void set_word_for(double value, const QString& word);
    QSize sizeHint() const override { return {90, 24}; }
    QSize minimumSizeHint() const override { return {44, 22}; }

signals:
    void edited(double value); // each change
    void scrubbing(bool on);   // a drag begins or ends

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    void change(double value);
    void type();
    void take_typed();
    QString shown() const;
    Range range_;
    QString unit_, wordFor_;
    double value_ = 0, wordValue_ = -1e300, pressValue_ = 0;
    int pressX_ = 0;
    bool down_ = false, moved_ = false;
    QLineEdit* line_ = nullptr;
};

} // namespace mirolux::app
