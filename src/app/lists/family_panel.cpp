// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/family_panel.h"

#include "app/crowd/crowd_dialog.h"
#include "app/lists/family_follows.h"
#include "app/theme/labels.h"
#include "project/edit.h"
#include "project/range.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>

namespace stone
{

/// One family: its name and members, level, mute, solo.
class FamilyPanel::Row : public QWidget
{
public:
    Row(FamilyPanel& panel, FamilyId id)
        : panel_(panel), id_(std::move(id)), name_(new QPushButton), members_(theme::caption({})),
          level_(new NumberField("dB", rangeOf(&Family::level_db), 1, 1)), mute_(new QToolButton), solo_(new QToolButton)
    {
        const QString key = QString::fromStdString(id_.text);
        setObjectName("family " + key);
        name_->setProperty("link", true);
        name_->setStyleSheet("text-align: left");
        name_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        level_->setObjectName("familyLevel " + key);
        level_->setToolTip(tr("Added to all its members"));
        level_->setFixedWidth(66);
        const auto toggle = [&](QToolButton* button, const QString& letter, const QString& help, const char* name) {
            button->setText(letter);
            button->setCheckable(true);
            button->setToolTip(help);
            button->setAccessibleName(help);
            button->setObjectName(name + key);
            button->setStyleSheet("padding: 3px 4px");
            button->setFixedWidth(26);
        };
        toggle(mute_, tr("M"), tr("Mute all its members"), "familyMute ");
        toggle(solo_, tr("S"), tr("Solo, only for your ears: only what is solo sounds"), "familySolo ");
        auto* names = new QVBoxLayout;
        names->setSpacing(0);
        names->addWidget(name_);
        names->addWidget(members_);
        level_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        auto* row = new QHBoxLayout(this);
        row->setContentsMargins(10, 4, 6, 4);
        row->setSpacing(4);
        row->addLayout(names, 1);
        row->addWidget(level_);
        row->addWidget(mute_);
        row->addWidget(solo_);
        connect(name_, &QPushButton::clicked, this, [this] {
            panel_.chosen_ = id_;
            panel_.refresh();
        });
        connect(level_, &NumberField::valueEdited, this, [this](double value) {
            panel_.session_.editFamily(id_, tr("level to %1 dB").arg(theme::signedNumber(value, 1)), "family level",
                                       [&](Family& f) { f.level_db = value; });
        });
        connect(level_, &NumberField::editingFinished, this, [this] { panel_.session_.endGesture(); });
        connect(mute_, &QToolButton::clicked, this, [this](bool on) {
            panel_.session_.editFamily(id_, on ? tr("muted") : tr("unmuted"), {}, [&](Family& f) { f.muted = on; });
        });
        connect(solo_, &QToolButton::clicked, this, [this](bool on) {
            ForEars forEars = panel_.playback_.forEars();
            if (on) {
                forEars.soloFamilies.insert(id_);
            } else {
                forEars.soloFamilies.erase(id_);
            }
            panel_.playback_.setForEars(std::move(forEars));
        });
    }

    const FamilyId& id() const { return id_; }

    void showFamily(const Family& family, int members, bool chosen)
    {
        name_->setText(QString::fromStdString(family.name));
        members_->setText(members == 1 ? tr("1 member") : tr("%1 members").arg(members));
        level_->present(family.level_db);
        mute_->setChecked(family.muted);
        solo_->setChecked(panel_.playback_.forEars().soloFamilies.contains(id_));
        setAutoFillBackground(true);
        QPalette colours = palette();
        colours.setColor(QPalette::Window, chosen ? theme::shade : theme::panel);
        setPalette(colours);
    }

private:
    FamilyPanel& panel_;
    FamilyId id_;
    QPushButton* name_;
    QLabel* members_;
    NumberField* level_;
    QToolButton* mute_;
    QToolButton* solo_;
};

FamilyPanel::FamilyPanel(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), rows_(new QVBoxLayout), empty_(theme::caption({})),
      detail_(new QWidget), name_(new QLineEdit), lowPass_(new NumberField("Hz", rangeOf(&Family::lowPass_hz), 0, 100)),
      highPass_(new NumberField("Hz", rangeOf(&Family::highPass_hz), 0, 10)),
      reach_(new NumberField(QStringLiteral("×"), rangeOf(&Family::reachFactor), 2, 0.1)), priority_(new QComboBox)
{
    setObjectName("families");
    name_->setObjectName("familyName");
    lowPass_->setObjectName("familyLowPass");
    lowPass_->setToolTip(tr("20000: open"));
    highPass_->setObjectName("familyHighPass");
    highPass_->setToolTip(tr("20: open"));
    reach_->setObjectName("familyReach");
    reach_->setToolTip(tr("Stretches the distances of all its members' falloffs"));
    priority_->setObjectName("familyPriority");
    priority_->addItems({tr("none"), tr("background"), tr("ordinary"), tr("notable"), tr("vital")});
    priority_->setToolTip(tr("For members that have none of their own"));
    empty_->setText(
        tr("A family holds all sounds of a kind (voices, lamps, weather): one level, filters, reach and mute for all of them, "
           "those added later included.\n\nMake one here, or on the bench under Family."));
    empty_->setWordWrap(true);
    empty_->setContentsMargins(12, 12, 12, 0);

    auto* grid = new QGridLayout(detail_);
    grid->setContentsMargins(12, 8, 12, 8);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addWidget(theme::caption(tr("Name"), name_), 0, 0, 1, 2);
    grid->addWidget(name_, 1, 0, 1, 2);
    grid->addWidget(theme::caption(tr("High-pass"), highPass_), 2, 0);
    grid->addWidget(theme::caption(tr("Low-pass"), lowPass_), 2, 1);
    grid->addWidget(highPass_, 3, 0);
    grid->addWidget(lowPass_, 3, 1);
    grid->addWidget(theme::caption(tr("Reach"), reach_), 4, 0);
    grid->addWidget(theme::caption(tr("Priority"), priority_), 4, 1);
    grid->addWidget(reach_, 5, 0);
    grid->addWidget(priority_, 5, 1);
    auto* follows = new QPushButton(tr("follows…"));
    follows->setObjectName("familyFollowsOpen");
    follows->setToolTip(tr("Lanes over game values for all members, and another falloff while a value holds"));
    connect(follows, &QPushButton::clicked, this, [this] {
        auto* dialog = new FamilyFollows(session_, playback_, chosen_, window());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    auto* limit = new QPushButton(tr("limit…"));
    limit->setObjectName("familyLimitOpen");
    limit->setToolTip(tr("How many of its members are heard at once, and who gives way"));
    connect(limit, &QPushButton::clicked, this, [this] {
        auto* dialog = new CrowdDialog(session_, playback_, chosen_, window());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->show();
    });
    auto* actions = new QHBoxLayout;
    auto* select = new QPushButton(tr("select all"));
    auto* remove = new QPushButton(tr("delete"));
    for (QPushButton* button : {follows, limit, select, remove}) {
        button->setProperty("link", true);
        actions->addWidget(button);
    }
    select->setObjectName("familySelect");
    remove->setObjectName("familyDelete");
    grid->addLayout(actions, 6, 0, 1, 2);

    auto* add = new QPushButton(tr("New family"));
    add->setObjectName("familyAdd");
    auto* list = new QWidget;
    auto* listBox = new QVBoxLayout(list);
    listBox->setContentsMargins(0, 0, 0, 0);
    listBox->setSpacing(0);
    rows_->setSpacing(0);
    listBox->addLayout(rows_);
    listBox->addWidget(empty_);
    listBox->addStretch();
    auto* scroll = new QScrollArea;
    scroll->setAccessibleName(tr("Families"));
    scroll->setWidget(list);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFrameShape(QFrame::NoFrame);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 4, 0, 4);
    box->addWidget(scroll, 1);
    box->addWidget(detail_);
    box->addWidget(add, 0, Qt::AlignHCenter);

    connect(add, &QPushButton::clicked, this, [this] {
        Project next = session_.project();
        Family family;
        family.name = tr("Family %1").arg(next.families.size() + 1).toStdString();
        family.id = next.families.freshId(family.name);
        chosen_ = family.id;
        next.families.append(std::move(family));
        session_.edit(std::move(next), tr("New family"));
        name_->setFocus();
        name_->selectAll();
    });
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string wanted = name_->text().trimmed().toStdString();
        const Family* family = session_.project().families.find(chosen_);
        if (family != nullptr && !wanted.empty() && wanted != family->name) {
            session_.editFamily(chosen_, tr("renamed to %1").arg(QString::fromStdString(wanted)), {},
                                [&](Family& f) { f.name = wanted; });
        }
    });
    const auto bind = [this](NumberField* field, const QString& what, double Family::*member) {
        connect(field, &NumberField::valueEdited, this, [this, field, what, member](double value) {
            session_.editFamily(chosen_, what.arg(value), field->objectName(), [&](Family& f) { f.*member = value; });
        });
        connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    };
    bind(lowPass_, tr("low-pass to %1 Hz"), &Family::lowPass_hz);
    bind(highPass_, tr("high-pass to %1 Hz"), &Family::highPass_hz);
    bind(reach_, tr("reach times %1"), &Family::reachFactor);
    connect(priority_, &QComboBox::activated, this, [this](int index) {
        session_.editFamily(chosen_, tr("priority %1").arg(priority_->itemText(index)), {}, [&](Family& f) {
            f.priority = index == 0 ? std::nullopt : std::optional(static_cast<Priority>(index - 1));
        });
    });
    connect(select, &QPushButton::clicked, this, [this] {
        std::set<EmitterId> members;
        for (const auto& emitter : session_.level().emitters) {
            if (emitter->family == chosen_) {
                members.insert(emitter->id);
            }
        }
        session_.select(members, members.empty() ? EmitterId{} : *members.begin());
    });
    connect(remove, &QPushButton::clicked, this, [this] {
        const Family* family = session_.project().families.find(chosen_);
        if (family != nullptr) {
            const QString name = QString::fromStdString(family->name);
            session_.edit(withoutFamily(session_.project(), chosen_), tr("Delete family %1").arg(name));
        }
    });
    connect(&session_, &Session::documentChanged, this, &FamilyPanel::refresh);
    connect(&playback_, &Playback::listeningChanged, this, &FamilyPanel::refresh);
    refresh();
}

int FamilyPanel::membersOf(const FamilyId& id) const
{
    int members = 0;
    for (const auto& level : session_.project().levels) {
        for (const auto& emitter : level->emitters) {
            members += emitter->family == id ? 1 : 0;
        }
    }
    return members;
}

void FamilyPanel::refresh()
{
    const auto& families = session_.project().families;
    bool same = shown_.size() == families.size();
    for (std::size_t i = 0; same && i < shown_.size(); ++i) {
        same = shown_[i]->id() == families[i]->id;
    }
    if (!same) {
        for (Row* row : shown_) {
            row->deleteLater();
        }
        shown_.clear();
        for (const auto& family : families) {
            shown_.push_back(new Row(*this, family->id));
            rows_->addWidget(shown_.back());
        }
    }
    if (families.find(chosen_) == nullptr) {
        chosen_ = families.empty() ? FamilyId{} : families[0]->id;
    }
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        shown_[i]->showFamily(*families[i], membersOf(families[i]->id), families[i]->id == chosen_);
    }
    empty_->setVisible(families.empty());
    refreshDetail();
}

void FamilyPanel::refreshDetail()
{
    const Family* family = session_.project().families.find(chosen_);
    detail_->setVisible(family != nullptr);
    if (family == nullptr) {
        return;
    }
    if (!name_->hasFocus() || !name_->isModified()) {
        name_->setText(QString::fromStdString(family->name));
    }
    lowPass_->present(family->lowPass_hz);
    highPass_->present(family->highPass_hz);
    reach_->present(family->reachFactor);
    const QSignalBlocker quiet(priority_);
    priority_->setCurrentIndex(family->priority ? 1 + static_cast<int>(*family->priority) : 0);
}

} // namespace stone
