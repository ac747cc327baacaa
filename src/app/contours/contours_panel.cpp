// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/contours/contours_panel.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <array>
#include <cmath>

namespace stone
{

namespace
{

constexpr std::array steps_db{3, 6, 10};
constexpr int width_px = 232;

QString nameOf(MapShows shows)
{
    switch (shows) {
    case MapShows::level: return ContoursPanel::tr("How loud it is");
    case MapShows::withRooms: return ContoursPanel::tr("How loud, with rooms' reverb");
    case MapShows::difference: return ContoursPanel::tr("What has changed");
    case MapShows::reverb: return ContoursPanel::tr("Reverb against direct sound");
    case MapShows::voices: return ContoursPanel::tr("How many voices");
    case MapShows::loudest: return ContoursPanel::tr("Who is loudest where");
    case MapShows::silence: return ContoursPanel::tr("Where nothing is heard");
    case MapShows::ambiences: return ContoursPanel::tr("Where ambiences collide");
    case MapShows::masked: return ContoursPanel::tr("What is masked by what");
    }
    return {};
}

} // namespace

ContoursPanel::ContoursPanel(Session& session, Playback& playback, PlanView& plan)
    : QFrame(&plan), session_(session), playback_(playback), plan_(plan), maker_(session, playback, this),
      shows_(new NameChooser), of_(new NameChooser), step_(new QComboBox), atMoment_(new QCheckBox(tr("now"))),
      keep_(new QToolButton), beside_(new QToolButton), what_(new QLabel), how_(new QLabel), foldable_(new QWidget),
      here_(new QLabel), section_(new MapSection)
{
    setObjectName("contours");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#contours { background: " + theme::over() + "; border: 1px solid " + theme::line.name() +
                  "; border-radius: 6px; }");
    setFixedWidth(width_px);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(10, 8, 10, 8);
    box->setSpacing(5);

    auto* head = new QHBoxLayout;
    auto* fold = new QToolButton;
    fold->setObjectName("contoursFold");
    fold->setText(tr("Contours"));
    fold->setFont(theme::text(9.5, QFont::Bold));
    fold->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    fold->setArrowType(Qt::DownArrow);
    fold->setAutoRaise(true);
    fold->setCheckable(true);
    fold->setToolTip(tr("Folds all of this but the value under the pointer"));
    auto* close = new QToolButton;
    close->setObjectName("contoursClose");
    close->setText(QStringLiteral("×"));
    close->setAccessibleName(tr("Without contours"));
    close->setToolTip(tr("Without contours (Shift+C)"));
    close->setAutoRaise(true);
    head->addWidget(fold);
    head->addWidget(how_, 1);
    head->addWidget(close);
    box->addLayout(head);

    for (std::size_t i = 0; i < mapShowsCount; ++i) {
        shows_->addItem(nameOf(static_cast<MapShows>(i)));
    }
    shows_->setObjectName("contoursShow");
    shows_->setAccessibleName(tr("What contours show"));
    shows_->setToolTip(tr("What contours show (Ctrl+Shift+C: the next)"));
    of_->setObjectName("contoursOf");
    of_->setAccessibleName(tr("Whose contours"));
    for (const int step : steps_db) {
        step_->addItem(tr("every %1 dB").arg(step), step);
    }
    step_->setCurrentIndex(1);
    step_->setObjectName("contoursStep");
    step_->setAccessibleName(tr("From line to line"));
    atMoment_->setObjectName("contoursMoment");
    atMoment_->setToolTip(tr("Sprinkles and Roamers as they are at the moment that is shown, instead of their mean over time"));
    keep_->setObjectName("contoursKeep");
    keep_->setText(tr("Keep as A"));
    keep_->setCheckable(true);
    keep_->setToolTip(tr("What has changed is counted from the map that is kept; without one, from that before the last edit"));
    beside_->setObjectName("contoursBeside");
    beside_->setText(tr("A beside"));
    beside_->setCheckable(true);
    beside_->setToolTip(tr("The map that is kept on the left half of the sheet, the present one on the right"));
    auto* all = new QVBoxLayout(foldable_);
    all->setContentsMargins(0, 0, 0, 0);
    all->setSpacing(5);
    all->addWidget(shows_);
    all->addWidget(of_);
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    row->addWidget(step_, 1);
    row->addWidget(atMoment_);
    all->addLayout(row);
    auto* compare = new QHBoxLayout;
    compare->setSpacing(6);
    compare->addWidget(keep_);
    compare->addWidget(beside_);
    compare->addStretch(1);
    all->addLayout(compare);
    all->addWidget(what_);
    box->addWidget(foldable_);
    box->addWidget(here_);
    for (QLabel* label : {what_, here_}) {
        label->setWordWrap(true);
        label->setFont(theme::text(8));
    }
    what_->setObjectName("contoursWhat");
    how_->setObjectName("contoursHow");
    how_->setFont(theme::text(8));
    how_->setStyleSheet("color: " + theme::soft.name());
    here_->setObjectName("contoursHere");
    here_->setFont(theme::text(8.5, QFont::DemiBold));
    box->addWidget(section_);
    section_->hide();

    connect(close, &QToolButton::clicked, this, [this] { setOn(false); });
    connect(fold, &QToolButton::toggled, this, [this, fold](bool folded) {
        foldable_->setVisible(!folded);
        fold->setArrowType(folded ? Qt::RightArrow : Qt::DownArrow);
        fit();
    });
    connect(shows_, &QComboBox::activated, this, &ContoursPanel::choose);
    connect(of_, &QComboBox::activated, this, &ContoursPanel::choose);
    connect(atMoment_, &QCheckBox::toggled, this, &ContoursPanel::choose);
    connect(step_, &QComboBox::activated, this, &ContoursPanel::redraw);
    connect(beside_, &QToolButton::toggled, this, &ContoursPanel::redraw);
    connect(keep_, &QToolButton::clicked, this, [this] { maker_.keep(); });
    connect(&maker_, &MapMaker::changed, this, &ContoursPanel::redraw);
    connect(&maker_, &MapMaker::progressed, this, &ContoursPanel::describe);
    connect(&session_, &Session::documentChanged, this, &ContoursPanel::refill);
    connect(&session_, &Session::selectionChanged, this, &ContoursPanel::refill);
    connect(&plan_, &PlanView::storeyChanged, this,
            [this] { maker_.setStorey(static_cast<std::size_t>(std::max(plan_.storey(), 0))); });
    connect(&plan_, &PlanView::pointedAt, this, &ContoursPanel::say);
    connect(&plan_, &PlanView::measuring, this, &ContoursPanel::cutSection);
    hide();
}

void ContoursPanel::setOn(bool on)
{
    if (on == maker_.on()) {
        return;
    }
    if (on && session_.level().sideOn) {
        emit session_.failed(tr("Contours are of a storey as it is seen from above: this level is seen from the side."));
        emit turned(false);
        return;
    }
    if (on) {
        refill();
        maker_.setStorey(static_cast<std::size_t>(std::max(plan_.storey(), 0)));
    }
    plan_.setUnderlay(on ? &layer_ : nullptr);
    maker_.setOn(on);
    setVisible(on);
    emit turned(on);
}

void ContoursPanel::showNext()
{
    setOn(true);
    if (!maker_.on()) {
        return;
    }
    shows_->setCurrentIndex((shows_->currentIndex() + 1) % shows_->count());
    choose();
}

/// The list of whom there is; whoever was chosen stays chosen while there is such.
void ContoursPanel::refill()
{
    if (!maker_.on() && isVisible()) {
        return;
    }
    const QSignalBlocker blocker(of_);
    const QString chosen = of_->currentData().toString();
    of_->clear();
    of_->addItem(tr("Of everything"), QStringLiteral("all"));
    const auto& selection = session_.selection();
    const Emitter* only = selection.size() == 1 ? session_.level().emitters.find(*selection.begin()) : nullptr;
    of_->addItem(only != nullptr ? tr("Of what is selected: %1").arg(QString::fromStdString(only->name))
                                 : tr("Of what is selected"),
                 QStringLiteral("selected"));
    for (const auto& family : session_.project().families) {
        of_->addItem(tr("Family %1").arg(QString::fromStdString(family->name)),
                     QStringLiteral("family:") + QString::fromStdString(family->id.text));
    }
    for (const auto& zone : session_.level().zones) {
        of_->addItem(tr("Zone %1").arg(QString::fromStdString(zone->name)),
                     QStringLiteral("zone:") + QString::fromStdString(zone->id.text));
    }
    of_->setCurrentIndex(std::max(of_->findData(chosen), 0));
}

void ContoursPanel::choose()
{
    MapChoice choice;
    choice.shows = static_cast<MapShows>(shows_->currentIndex());
    choice.atMoment = atMoment_->isChecked();
    const QString of = of_->currentData().toString();
    const std::string id = of.section(':', 1).toStdString();
    if (of == QLatin1String("selected")) {
        choice.of = MapChoice::Of::selected;
    } else if (of.startsWith(QLatin1String("family:"))) {
        choice.of = MapChoice::Of::family;
        choice.id = id;
    } else if (of.startsWith(QLatin1String("zone:"))) {
        choice.of = MapChoice::Of::zone;
        choice.id = id;
    }
    maker_.setChoice(choice);
}

void ContoursPanel::redraw()
{
    keep_->setChecked(maker_.keeps());
    keep_->setEnabled(maker_.keeps() || (maker_.shown() != nullptr && maker_.shown()->whole()));
    const SharedMap before = maker_.before();
    beside_->setEnabled(before != nullptr);
    layer_.show(maker_.shown(), before, beside_->isChecked() ? before : nullptr, step_->currentData().toDouble(),
                session_.project().voices);
    describe();
    say(pointer_);
    cutSection();
    plan_.update();
    fit();
}

void ContoursPanel::describe()
{
    const SharedMap& map = maker_.shown();
    if (map == nullptr) {
        how_->clear();
        const bool nobody = maker_.choice().of != MapChoice::Of::all && !maker_.making();
        what_->setText(nobody ? tr("Nobody is chosen: select an emitter, or choose a family, a zone or everything above.")
                              : tr("being worked out…"));
        return;
    }
    const Level& level = session_.level();
    QStringList said;
    QString height = tr("%1: at the ears, %2 up").arg(map->of, theme::metres(level.character.earsHeight_m));
    if (map->storey < level.storeys.size()) {
        height += tr(" on %1").arg(QString::fromStdString(level.storeys[map->storey].name));
    }
    said << height + (map->choice.atMoment
                          ? tr(", as it is at this moment; walls, doors, zones counted, gazes not")
                          : tr(", as if all of it sounded, sprinkles and Roamers in the mean; walls, doors, zones counted, "
                               "gazes not"));
    if (map->choice.shows == MapShows::difference && maker_.before() == nullptr) {
        said << tr("keep a map as A, or change something: then there is something to compare with");
    }
    const long done = std::lround(maker_.progress() * 100.0);
    how_->setText(!maker_.making() ? tr("whole · %1 s").arg(map->took_s, 0, 'f', 1)
                  : map->whole()   ? tr("anew · %1 %").arg(done)
                                   : tr("coarse · %1 %").arg(done));
    how_->setToolTip(tr("Cells of %1").arg(theme::metres(map->grid.cell_m)));
    what_->setText(said.join(QStringLiteral("\n")));
    fit();
}

QString ContoursPanel::ofNumber(double number) const
{
    if (!std::isfinite(number)) {
        return tr("nothing");
    }
    const MapShows shows = maker_.choice().shows;
    if (shows == MapShows::voices) {
        return tr("%n voices", nullptr, static_cast<int>(std::lround(number)));
    }
    const bool difference = shows == MapShows::difference || shows == MapShows::reverb;
    return (difference && number > 0.0 ? QStringLiteral("+") : QString()) + theme::signedNumber(number, 1) +
           QStringLiteral(" dB");
}

/// As high as what it says: words that are broken into lines tell their height late.
void ContoursPanel::fit()
{
    constexpr int margins_px = 20;
    constexpr int inner_px = width_px - margins_px;
    for (QLabel* label : {what_, here_}) {
        label->setFixedHeight(label->heightForWidth(inner_px) + 2);
    }
    foldable_->setFixedHeight(foldable_->layout()->totalHeightForWidth(inner_px));
    layout()->invalidate();
    layout()->activate();
    setFixedHeight(layout()->heightForWidth(width()));
}

/// What the map says under the pointer.
void ContoursPanel::say(const std::optional<Vec2>& place)
{
    pointer_ = place;
    const SharedMap& map = maker_.shown();
    if (!place || map == nullptr || map->grid.cells() == 0) {
        here_->setText(map == nullptr ? QString() : tr("Point at a place for its value; drag with Ctrl for a section."));
        return;
    }
    const Vec2 in = (*place - map->grid.from) / map->grid.cell_m + 0.5;
    if (in.x < 0.0 || in.y < 0.0 || in.x >= map->grid.columns || in.y >= map->grid.rows) {
        here_->setText(tr("outside the map"));
        return;
    }
    const MapCell& cell =
        map->cells[std::size_t{static_cast<std::uint32_t>(in.y)} * map->grid.columns + static_cast<std::uint32_t>(in.x)];
    const auto& emitters = map->scene->model.level().emitters;
    const auto named = [&](std::uint32_t index, double level_db) {
        return tr("%1 %2").arg(QString::fromStdString(emitters[index]->name), theme::decibels(level_db));
    };
    QStringList said;
    if (!layer_.numbers().empty()) {
        said << tr("Here: %1").arg(ofNumber(alongLine(map->grid, layer_.numbers(), *place, *place, 1).front()));
    }
    if (map->choice.shows == MapShows::masked && cell.masked != MapCell::nobody) {
        said << tr("%1 cannot be made out under %2")
                    .arg(QString::fromStdString(emitters[cell.masked]->name),
                         QString::fromStdString(emitters[cell.maskedBy]->name));
    } else if (cell.loudest != MapCell::nobody) {
        said << tr("loudest: %1").arg(named(cell.loudest, cell.loudest_db));
        if (map->choice.shows == MapShows::ambiences && cell.second != MapCell::nobody) {
            said << tr("then: %1").arg(named(cell.second, cell.second_db));
        }
    } else {
        said << tr("nothing is heard here");
    }
    here_->setText(said.join(QStringLiteral("\n")));
}

void ContoursPanel::cutSection()
{
    const auto line = plan_.measured();
    const SharedMap& map = maker_.shown();
    const bool cut = line && map != nullptr && !layer_.numbers().empty();
    if (cut) {
        constexpr std::size_t places = 200;
        const auto [from, to] = *line;
        section_->show(alongLine(map->grid, layer_.numbers(), from, to, places), glm::length(to - from),
                       ContourLayer::stepOf(map->choice.shows, step_->currentData().toDouble()));
    }
    if (cut == section_->isHidden()) {
        section_->setVisible(cut);
        fit();
    }
}

} // namespace stone
