#pragma once
#include <QStringList>
#include <QWidget>

namespace mirolux::app {

/// All choices of one thing side by side, the chosen one lit; broken into lines where they do not fit. Click, or arrow
/// keys.
class ChoiceRow : public QWidget {
    Q_OBJECT
public:
    explicit ChoiceRow(const QStringList& words, QWidget* parent = nullptr);
    void set_current(int index); // no signal
    void set_words(const QStringList& words);
    int current() const { return current_; }
    const QStringList& words() const { return words_; }
    QRect cell(int index) const;
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;

signals:
    void chosen(int index);
    void hovered(int index); // -1: none

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    std::vector<QRect> cells(int width) const;
    int at(const QPoint& p) const;
    void choose(int index);
    QStringList words_;
    int current_ = 0, under_ = -1;
};

} // namespace mirolux::app
