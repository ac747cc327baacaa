// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_stack.h"

#include "app/theme/labels.h"
#include "app/widgets/still_place.h"
#include "hearing/reasons.h"
#include "project/settings.h"

#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

/// One lane as a row: whether it is on, its name, its shape in small, its value at the ears. Click to enlarge, with
/// Control to lay it over the large one.
class LaneStack::Row : public QWidget
{
public:
    Row(LaneStack& stack, LaneProperty property) : stack_(stack), property_(property), on_(new QCheckBox(this))
    {
        setFixedHeight(24);
        setObjectName(QString("lane%1").arg(static_cast<int>(property)));
        setFocusPolicy(Qt::TabFocus);
        setCursor(Qt::PointingHandCursor);
        on_->move(0, 3);
        on_->resize(18, 18);
        on_->setFocusPolicy(Qt::TabFocus);
        on_->setToolTip(tr("Switched off, a lane keeps its points and does nothing"));
        connect(on_, &QCheckBox::clicked, this, [this](bool on) {
            Lane lane = lane_;
            lane.on = on;
            stack_.put(lane, on ? tr("on") : tr("off"), {});
        });
        setAccessibleName(lanes::name(property));
    }

    void showLane(const Lane& lane, const lanes::Stretch& ruler, std::optional<double> place, bool large, bool over)
    {
        lane_ = lane;
        ruler_ = ruler;
        place_ = place;
        large_ = large;
        over_ = over;
        on_->setChecked(lane.on);
        on_->setAccessibleName(tr("%1 on").arg(lanes::name(property_)));
        setToolTip(tr("%1. Click to enlarge, Ctrl+click to lay it over the large one, Delete to take it out")
                       .arg(QString::fromStdString(inWords(lane))));
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        if (large_) {
            painter.fillRect(rect().adjusted(20, 0, 0, 0), theme::shade);
        }
        const QColor colour = lane_.on ? lanes::colourOf(property_) : theme::faint;
        painter.setFont(theme::text(8.5, large_ ? QFont::Bold : QFont::Normal));
        painter.setPen(lane_.on ? theme::ink : theme::faint);
        painter.drawText(QRectF(24, 0, 84, height()), Qt::AlignVCenter | Qt::AlignLeft, lanes::name(property_));
        const QRectF strip(110, 3, width() - 110 - 70, height() - 6);
        {
            Lane drawn = lane_;
            drawn.on = true;
            const lanes::Stretch values = lanes::valuesOf(drawn);
            QPainterPath path;
            for (int i = 0; i <= 60; ++i) {
                const double x = ruler_.from + (ruler_.to - ruler_.from) * i / 60.0;
                const double value = lanes::onStrip(drawn, laneAt(drawn, x));
                const double t = lanes::isLogarithmic(property_)
                                     ? std::log(value / values.from) / std::log(values.to / values.from)
                                     : (value - values.from) / (values.to - values.from);
                const QPointF at(strip.left() + strip.width() * i / 60.0, strip.bottom() - strip.height() * t);
                i == 0 ? path.moveTo(at) : path.lineTo(at);
            }
            painter.setPen(QPen(colour, 1.5, over_ ? Qt::DotLine : Qt::SolidLine));
            painter.drawPath(path);
            if (place_) {
                const double t = std::clamp((*place_ - ruler_.from) / (ruler_.to - ruler_.from), 0.0, 1.0);
                painter.setPen(QPen(theme::ink, 1, Qt::DotLine));
                painter.drawLine(QPointF(strip.left() + strip.width() * t, 2),
                                 QPointF(strip.left() + strip.width() * t, height() - 2));
            }
        }
        painter.setFont(theme::number(8));
        painter.setPen(lane_.on ? theme::ink : theme::faint);
        const QString value = !lane_.on ? tr("off") : place_ ? lanes::valueText(property_, laneAt(lane_, *place_)) : QString();
        painter.drawText(QRectF(width() - 68, 0, 64, height()), Qt::AlignVCenter | Qt::AlignRight, value);
        if (hasFocus()) {
            painter.setPen(QPen(theme::verdigris, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(QRectF(rect()).adjusted(20.5, 0.5, -0.5, -0.5));
        }
    }

    void mousePressEvent(QMouseEvent* event) override { choose(event->modifiers() & Qt::ControlModifier); }

    void keyPressEvent(QKeyEvent* event) override
    {
        if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Space) {
            choose(event->modifiers() & Qt::ControlModifier);
        } else if (event->key() == Qt::Key_Delete) {
            stack_.remove(property_);
        } else {
            QWidget::keyPressEvent(event);
        }
    }

private:
    void choose(bool over)
    {
        if (over) {
            stack_.laidOver_ = stack_.laidOver_ == property_ ? std::nullopt : std::optional(property_);
            stack_.refresh();
        } else {
            stack_.enlarge(property_);
        }
    }

    LaneStack& stack_;
    LaneProperty property_;
    QCheckBox* on_;
    Lane lane_;
    lanes::Stretch ruler_{0, 1};
    std::optional<double> place_;
    bool large_ = false;
    bool over_ = false;
};

LaneStack::LaneStack(LaneInput over, std::vector<LaneProperty> offered, Source source, QWidget* parent)
    : QWidget(parent), over_(over), offered_(std::move(offered)), source_(std::move(source)), large_(offered_.front()),
      words_(theme::caption({})), empty_(theme::caption({})), fields_(new LaneFields), strip_(new LaneStrip),
      hint_(theme::caption({})), adding_(theme::caption({}))
{
    words_->setObjectName("laneInWords");
    words_->setWordWrap(true);
    words_->setStyleSheet("color: " + theme::ink.name());
    empty_->setWordWrap(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(3);
    box->addWidget(fields_);
    box->addWidget(strip_);
    hint_->setAlignment(Qt::AlignHCenter);
    hintPlace_ = new StillPlace(hint_);
    box->addWidget(hintPlace_, 0, Qt::AlignHCenter);
    box->addWidget(words_);
    box->addWidget(empty_);
    for (const LaneProperty property : offered_) {
        rows_.push_back(new Row(*this, property));
        box->addWidget(rows_.back());
    }
    adding_->setObjectName("addLane");
    adding_->setWordWrap(true);
    adding_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    adding_->setFocusPolicy(Qt::TabFocus);
    box->addWidget(adding_);
    connect(adding_, &QLabel::linkActivated, this,
            [this](const QString& link) { enlarge(static_cast<LaneProperty>(link.toInt())); });
    connect(strip_, &LaneStrip::laneEdited, this, &LaneStack::put);
    connect(fields_, &LaneFields::laneEdited, this, &LaneStack::put);
    connect(strip_, &LaneStrip::gestureEnded, this, [this] { source_.endGesture(); });
    connect(fields_, &LaneFields::gestureEnded, this, [this] { source_.endGesture(); });
    connect(strip_, &LaneStrip::chosenChanged, this, &LaneStack::showLarge);
    connect(strip_, &LaneStrip::placeDragged, this, [this](double x) { source_.preview(x); });
    connect(strip_, &LaneStrip::placeReleased, this, [this] { source_.endPreview(); });
}

std::vector<Lane> LaneStack::mine() const
{
    std::vector<Lane> lanes = source_.lanes();
    std::erase_if(lanes, [this](const Lane& lane) { return !isMine(lane); });
    return lanes;
}

const Lane* LaneStack::find(const std::vector<Lane>& lanes, LaneProperty property) const
{
    const auto found =
        std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.property == property && isMine(lane); });
    return found != lanes.end() ? &*found : nullptr;
}

void LaneStack::put(const Lane& lane, const QString& what, const QString& gesture)
{
    std::vector<Lane> lanes = source_.lanes();
    const auto found = std::find_if(lanes.begin(), lanes.end(), [&](const Lane& other) {
        return other.property == lane.property && other.over == lane.over && other.value == lane.value;
    });
    if (found != lanes.end()) {
        *found = lane;
    } else {
        lanes.push_back(lane);
    }
    source_.change(std::move(lanes), tr("%1 %2").arg(lanes::name(lane.property).toLower(), what), gesture);
}

void LaneStack::remove(LaneProperty property)
{
    std::vector<Lane> lanes = source_.lanes();
    // A falloff always has its level.
    if (over_ == LaneInput::distance && property == LaneProperty::level) {
        return;
    }
    std::erase_if(lanes, [&](const Lane& lane) { return lane.property == property && isMine(lane); });
    large_ = offered_.front();
    source_.change(std::move(lanes), tr("no %1 lane").arg(lanes::name(property).toLower()), {});
}

Lane LaneStack::freshLane(LaneProperty property) const
{
    Lane lane;
    lane.property = property;
    lane.over = over_;
    lane.value = value_;
    lane.shape = LaneShape::curve;
    const TwoAngles ends = usualAngles(property);
    if (over_ == LaneInput::offFront || over_ == LaneInput::gaze) {
        lane.shape = LaneShape::twoAngles;
        lane.angles = ends;
    } else if (over_ == LaneInput::direction) {
        lane.curve = {{-180, ends.behind, Segment::smooth},
                      {-90, ends.inside, Segment::straight},
                      {90, ends.inside, Segment::smooth},
                      {180, ends.behind}};
    } else if (over_ == LaneInput::speed) {
        lane.curve = {{0.0, ends.behind, Segment::smooth}, {3.0, ends.inside}};
    } else if (over_ == LaneInput::depth) {
        lane.curve = {{0.0, ends.behind, Segment::smooth}, {5.0, ends.inside}};
    } else if (over_ == LaneInput::gameValue) {
        lane.curve = {{ends_.from, ends.behind}, {ends_.to, ends.inside}};
    } else if (over_ == LaneInput::time) {
        lane.curve = {{0.0, ends.behind, Segment::smooth}, {1.0, ends.inside}};
    } else {
        const std::vector<Lane> lanes = mine();
        const Lane* level = find(lanes, LaneProperty::level);
        const double end = level != nullptr ? std::min(silentOrFaint_m(*level), 1000.0) : 20.0;
        lane.curve = {{std::round(end * 20.0) / 100.0, ends.inside, Segment::smooth},
                      {std::round(end * 100.0) / 100.0, ends.behind}};
    }
    return lane;
}

void LaneStack::enlarge(LaneProperty property)
{
    large_ = property;
    if (laidOver_ == property) {
        laidOver_.reset();
    }
    const std::vector<Lane> lanes = mine();
    if (find(lanes, property) == nullptr) {
        put(freshLane(property), tr("lane added"), {});
    }
    refresh();
}

void LaneStack::setInput(LaneInput over, const GameValueId& value, const lanes::Stretch& ends)
{
    over_ = over;
    value_ = value;
    ends_ = ends;
    laidOver_.reset();
    const std::vector<Lane> lanes = mine();
    large_ = lanes.empty() ? offered_.front() : lanes.front().property;
    refresh();
}

void LaneStack::withhold(std::vector<LaneProperty> properties)
{
    withheld_ = std::move(properties);
}

void LaneStack::refresh()
{
    const std::vector<Lane> lanes = mine();
    if (find(lanes, large_) == nullptr && !lanes.empty()) {
        large_ = lanes.front().property;
    }
    refreshPlace(); // first, for the strip decides which point is chosen
    showLarge();
}

void LaneStack::showLarge()
{
    const std::vector<Lane> lanes = mine();
    const Lane* lane = find(lanes, large_);
    for (QWidget* widget : std::initializer_list<QWidget*>{fields_, strip_, hintPlace_, words_}) {
        widget->setVisible(lane != nullptr);
    }
    empty_->setVisible(lane == nullptr);
    empty_->setText(tr("Nothing follows the %1 yet.").arg(QString::fromUtf8(inputName(over_))));
    if (lane != nullptr) {
        fields_->showLane(*lane, strip_->chosen());
        words_->setText(lanes::name(large_) + ": " + QString::fromStdString(inWords(*lane)).replace('-', QChar(0x2212)));
    }
}

void LaneStack::refreshPlace()
{
    const std::vector<Lane> lanes = mine();
    const Lane* lane = find(lanes, large_);
    const auto place = source_.place();
    lanes::Stretch ruler{0.0, 1.0};
    for (const Lane& each : lanes) {
        const lanes::Stretch needs = lanes::inputOf(each);
        ruler = {needs.from, std::max(ruler.to, needs.to)};
    }
    const bool grows = over_ == LaneInput::distance || over_ == LaneInput::speed || over_ == LaneInput::time;
    if (grows && place) {
        ruler.to = std::max(ruler.to, std::min(lanes::rulerFor(*place), 1.6 * ruler.to));
    }
    QStringList missing;
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        const Lane* each = find(lanes, offered_[i]);
        rows_[i]->setVisible(each != nullptr);
        if (each != nullptr) {
            rows_[i]->showLane(*each, ruler, place, offered_[i] == large_, laidOver_ == offered_[i]);
        } else if (std::find(withheld_.begin(), withheld_.end(), offered_[i]) == withheld_.end()) {
            missing << QString("<a href=\"%1\" style=\"color:%2\">%3</a>")
                           .arg(static_cast<int>(offered_[i]))
                           .arg(theme::verdigris.name(), lanes::name(offered_[i]).toLower());
        }
    }
    adding_->setVisible(!missing.isEmpty());
    adding_->setText(tr("add a lane: %1").arg(missing.join(QStringLiteral(" · "))));
    if (lane == nullptr) {
        return;
    }
    const std::vector<Lane> ghosts = source_.ghost();
    const Lane* ghost = find(ghosts, large_);
    const Lane* over = laidOver_ ? find(lanes, *laidOver_) : nullptr;
    strip_->showLane({*lane, place, ghost != nullptr ? std::optional(*ghost) : std::nullopt,
                      over != nullptr ? std::optional(*over) : std::nullopt, grows ? ruler.to : 0.0});
    strip_->setObjectName(large_ == LaneProperty::level ? "levelLane" : "otherLane");
    strip_->setAccessibleName(tr("%1 over %2").arg(lanes::name(large_), QString::fromUtf8(inputName(over_))));
    const bool carried = over_ == LaneInput::distance || over_ == LaneInput::offFront || over_ == LaneInput::direction;
    if (place && !carried) {
        hint_->setText(tr("now: %1").arg(lanes::inputText(over_, *place)));
        return;
    }
    hint_->setText(place ? tr("your ears: %1 · drag the line to listen from elsewhere").arg(lanes::inputText(over_, *place))
                         : QString());
}

} // namespace stone
