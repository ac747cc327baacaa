// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/gaze/gaze_page.h"

#include "app/forms/names_of.h"
#include "project/settings.h"
#include "world/gazing.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QScrollBar>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

enum Role { isFamily = Qt::UserRole, idText };
enum Column { who, forIt, exempt };
constexpr std::size_t mostAngles = 5;

template <class ThingId> void setIn(std::vector<ThingId>& ids, const ThingId& id, bool in)
{
    std::erase(ids, id);
    if (in) {
        ids.push_back(id);
    }
}

template <class ThingId> bool has(const std::vector<ThingId>& ids, const ThingId& id)
{
    return std::find(ids.begin(), ids.end(), id) != ids.end();
}

} // namespace

GazePage::GazePage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), which_(new QComboBox), members_(new QTreeWidget),
      angles_(theme::caption({})), none_(new QLabel)
{
    setObjectName("gazePage");
    lanes_ = new LaneStack(LaneInput::gaze, {LaneProperty::level, LaneProperty::nearness, LaneProperty::priority}, source());
    fields_ = makeFields();
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* back = new QPushButton(tr("‹ back"));
    back->setObjectName("gazeBack");
    back->setProperty("link", true);
    connect(back, &QPushButton::clicked, this, &GazePage::backWanted);
    box->addWidget(back, 0, Qt::AlignLeft);
    auto* what =
        theme::explained(tr("Gaze: what is looked at comes forward, the rest steps back. Z hears it with and without."));
    box->addWidget(what);
    auto* row = new QHBoxLayout;
    which_->setObjectName("whichGaze");
    which_->setAccessibleName(tr("Gaze"));
    auto* fresh = new QPushButton(tr("New"));
    fresh->setObjectName("newGaze");
    auto* gone = new QPushButton(tr("Remove"));
    gone->setObjectName("removeGaze");
    row->addWidget(which_, 1);
    row->addWidget(fresh);
    row->addWidget(gone);
    box->addLayout(row);
    connect(which_, &QComboBox::activated, this, [this](int index) {
        shown_ = {which_->itemData(index).toString().toStdString()};
        refresh();
    });
    connect(fresh, &QPushButton::clicked, this, &GazePage::make);
    connect(gone, &QPushButton::clicked, this, &GazePage::remove);
    none_->setWordWrap(true);
    none_->setText(
        tr("There is none yet: everything is heard alike, wherever you look. <b>New</b> makes one that takes 9 dB from "
           "what lies far off your gaze."));
    box->addWidget(none_);
    box->addWidget(fields_);
    box->addStretch();
}

QWidget* GazePage::makeFields()
{
    auto* page = new QWidget;
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(6);
    auto* head = new QHBoxLayout;
    head->addWidget(theme::caption(tr("Name")));
    head->addWidget(words("gazeName", tr("Name"), [](Gaze& g) -> std::string& { return g.name; }), 1);
    head->addWidget(flag("gazeOn", tr("on"), tr("Switched off, it keeps its lanes and does nothing"),
                         [](Gaze& g) -> bool& { return g.on; }));
    box->addLayout(head);
    box->addWidget(lanes_);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    grid->addWidget(
        labelled(tr("The angle is taken"), choice(
                                               "gazeAngle", tr("The angle is taken"), {tr("horizontal"), tr("in space")},
                                               [](const Gaze& g) { return g.horizontal ? 0 : 1; },
                                               [](Gaze& g, int index) { g.horizontal = index == 0; })),
        0, 0);
    grid->addWidget(
        labelled(tr("Comes up in"),
                 number({"gazeRise", "s", tr("comes up in %1 s"), tr("How long what one looks at takes to come forward")},
                        NumberSteps{2, 0.05}.over(rangeOf(&Gaze::rise_s)), [](Gaze& g) -> double& { return g.rise_s; })),
        0, 1);
    grid->addWidget(
        labelled(tr("Goes back in"),
                 number({"gazeFall", "s", tr("goes back in %1 s"), tr("How long what one looks away from takes to step back")},
                        NumberSteps{2, 0.05}.over(rangeOf(&Gaze::fall_s)), [](Gaze& g) -> double& { return g.fall_s; })),
        0, 2);
    const auto signalNames = [this] { return namesOf(session_.project().signalNames); };
    grid->addWidget(
        labelled(tr("It counts"), choice(
                                      "gazeWhen", tr("It counts"), {tr("always"), tr("between signals"), tr("in a zone")},
                                      [](const Gaze& g) { return static_cast<int>(g.when); },
                                      [](Gaze& g, int index) { g.when = static_cast<Gaze::When>(index); })),
        1, 0);
    auto* from = labelled(tr("From"), reference("gazeFrom", tr("From"), tr("no signal"), signalNames,
                                                [](Gaze& g) -> std::string& { return g.from.text; }));
    auto* until = labelled(tr("Until"), reference("gazeUntil", tr("Until"), tr("no signal"), signalNames,
                                                  [](Gaze& g) -> std::string& { return g.until.text; }));
    auto* zone =
        labelled(tr("Zone"), reference(
                                 "gazeZone", tr("Zone"), tr("no zone"), [this] { return namesOf(session_.level().zones); },
                                 [](Gaze& g) -> std::string& { return g.zone.text; }));
    grid->addWidget(from, 1, 1);
    grid->addWidget(until, 1, 2);
    grid->addWidget(zone, 1, 1, 1, 2);
    showWhen(from, [](const Gaze& g) { return g.when == Gaze::When::signal; });
    showWhen(until, [](const Gaze& g) { return g.when == Gaze::When::signal; });
    showWhen(zone, [](const Gaze& g) { return g.when == Gaze::When::zone; });
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    box->addLayout(grid);
    auto* whom = theme::explained(tr("For whom: everything, unless something is ticked here. What is exempt is left alone."));
    box->addWidget(whom);
    members_->setObjectName("gazeMembers");
    members_->setAccessibleName(tr("For whom"));
    members_->setHeaderLabels({tr("Family or emitter"), tr("for it"), tr("exempt")});
    members_->setRootIsDecorated(false);
    members_->setUniformRowHeights(true);
    members_->header()->setStretchLastSection(false);
    members_->header()->setSectionResizeMode(who, QHeaderView::Stretch);
    for (const int column : {forIt, exempt}) {
        members_->header()->setSectionResizeMode(column, QHeaderView::ResizeToContents);
    }
    members_->setFixedHeight(150);
    connect(members_, &QTreeWidget::itemChanged, this, &GazePage::tick);
    box->addWidget(members_);
    angles_->setObjectName("gazeAngles");
    angles_->setWordWrap(true);
    angles_->setStyleSheet("color: " + theme::ink.name());
    box->addWidget(angles_);
    return page;
}

/// For it or exempt, never both.
void GazePage::tick(QTreeWidgetItem* item, int column)
{
    const std::string id = item->data(who, idText).toString().toStdString();
    const bool on = item->checkState(column) == Qt::Checked;
    const QString what = column == exempt ? (on ? tr("%1 exempt") : tr("%1 not exempt")) : on ? tr("for %1") : tr("not for %1");
    const bool family = item->data(who, isFamily).toBool();
    const auto change = [=](Gaze& g) {
        if (family) {
            setIn(column == exempt ? g.exemptFamilies : g.families, FamilyId{id}, on);
            if (on) {
                setIn(column == exempt ? g.families : g.exemptFamilies, FamilyId{id}, false);
            }
            return;
        }
        setIn(column == exempt ? g.exempt : g.emitters, EmitterId{id}, on);
        if (on) {
            setIn(column == exempt ? g.emitters : g.exempt, EmitterId{id}, false);
        }
    };
    // The edit fills the list anew: not while the list is still busy with the click.
    QTimer::singleShot(0, this, [this, change, name = what.arg(item->text(who))] { edit(name, {}, change); });
}

LaneStack::Source GazePage::source()
{
    return {.lanes = [this] { return thing() != nullptr ? thing()->lanes : std::vector<Lane>{}; },
            .change = [this](std::vector<Lane> lanes, const QString& what,
                             const QString& gesture) { edit(what, gesture, [&](Gaze& g) { g.lanes = lanes; }); },
            .endGesture = [this] { session_.endGesture(); },
            .place = [this]() -> std::optional<double> {
                const int index = session_.primaryIndex();
                const auto& heard = playback_.heard();
                if (thing() == nullptr || index < 0 || static_cast<std::size_t>(index) >= heard.size()) {
                    return {};
                }
                return offGaze_deg(playback_.moment().gaze, heard[static_cast<std::size_t>(index)].at, thing()->horizontal);
            },
            .ghost = [] { return std::vector<Lane>{}; },
            .preview = [](double) {},
            .endPreview = [] {}};
}

const Gaze* GazePage::thing() const
{
    const auto& gazes = session_.project().gazes;
    const Gaze* found = gazes.find(shown_);
    return found != nullptr || gazes.empty() ? found : gazes[0].get();
}

void GazePage::edit(const QString& what, const QString& gesture, const std::function<void(Gaze&)>& change)
{
    if (const Gaze* found = thing()) {
        Gaze gaze = *found;
        change(gaze);
        Project next = session_.project();
        const QString name = QString::fromStdString(found->name);
        next.gazes.put(std::move(gaze));
        session_.edit(std::move(next), tr("Gaze %1: %2").arg(name, what), gesture);
    }
}

void GazePage::make()
{
    Project next = session_.project();
    Gaze gaze;
    gaze.name = next.gazes.empty() ? "Gaze" : "Gaze " + std::to_string(next.gazes.size() + 1);
    gaze.id = next.gazes.freshId(gaze.name);
    Lane lane;
    lane.over = LaneInput::gaze;
    lane.shape = LaneShape::twoAngles;
    lane.angles = {60.0, 140.0, 0.0, -9.0};
    gaze.lanes = {lane};
    shown_ = gaze.id;
    const QString name = QString::fromStdString(gaze.name);
    next.gazes.put(std::move(gaze));
    session_.edit(std::move(next), tr("New gaze %1").arg(name));
}

void GazePage::remove()
{
    if (const Gaze* found = thing()) {
        Project next = session_.project();
        const QString name = QString::fromStdString(found->name);
        next.gazes.remove(GazeId(found->id));
        session_.edit(std::move(next), tr("Remove the gaze %1").arg(name));
    }
}

void GazePage::refresh()
{
    const Gaze* gaze = thing();
    none_->setVisible(gaze == nullptr);
    fields_->setVisible(gaze != nullptr);
    findChild<QPushButton*>("removeGaze")->setVisible(gaze != nullptr);
    const QSignalBlocker quiet(which_);
    which_->clear();
    for (const auto& known : session_.project().gazes) {
        which_->addItem(QString::fromStdString(known->name), QString::fromStdString(known->id.text));
    }
    which_->setPlaceholderText(tr("no gaze yet"));
    which_->setCurrentIndex(gaze != nullptr ? which_->findData(QString::fromStdString(gaze->id.text)) : -1);
    ThingForm::refresh();
    if (gaze != nullptr) {
        lanes_->refresh();
        refreshMembers();
        follow();
    }
}

void GazePage::refreshMembers()
{
    const Gaze& gaze = *thing();
    const QSignalBlocker quiet(members_);
    const int scrolled = members_->verticalScrollBar()->value();
    members_->clear();
    const auto add = [&](const QString& text, const std::string& id, bool family, bool in, bool out) {
        auto* item = new QTreeWidgetItem(members_, {text});
        item->setData(who, isFamily, family);
        item->setData(who, idText, QString::fromStdString(id));
        item->setCheckState(forIt, in ? Qt::Checked : Qt::Unchecked);
        item->setCheckState(exempt, out ? Qt::Checked : Qt::Unchecked);
    };
    for (const auto& family : session_.project().families) {
        add(tr("family %1").arg(QString::fromStdString(family->name)), family->id.text, true, has(gaze.families, family->id),
            has(gaze.exemptFamilies, family->id));
    }
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->kind != EmitterKind::bed) {
            add(QString::fromStdString(emitter->name), emitter->id.text, false, has(gaze.emitters, emitter->id),
                has(gaze.exempt, emitter->id));
        }
    }
    members_->verticalScrollBar()->setValue(scrolled);
}

void GazePage::follow()
{
    if (thing() == nullptr) {
        return;
    }
    lanes_->refreshPlace();
    std::vector<const Heard*> heard;
    for (const Heard& one : playback_.heard()) {
        if (one.audible && playback_.hearing().level().emitters[one.index]->kind != EmitterKind::bed) {
            heard.push_back(&one);
        }
    }
    std::sort(heard.begin(), heard.end(), [](const Heard* a, const Heard* b) { return a->level_db > b->level_db; });
    QStringList lines;
    for (std::size_t i = 0; i < std::min(heard.size(), mostAngles); ++i) {
        lines << tr("%1: %2° off, %3 dB")
                     .arg(QString::fromStdString(playback_.hearing().level().emitters[heard[i]->index]->name).toHtmlEscaped())
                     .arg(std::lround(heard[i]->offGaze_deg))
                     .arg(theme::decibels(heard[i]->gazed.level_db));
    }
    angles_->setText(lines.isEmpty() ? tr("Nothing is in earshot just now.") : tr("Just now:<br>%1").arg(lines.join("<br>")));
}

} // namespace stone
