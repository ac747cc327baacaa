// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/names_dialog.h"

#include "project/references.h"

#include <QDialogButtonBox>
#include <QHeaderView>
#include <QMessageBox>
#include <QShortcut>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

namespace
{

constexpr int kindRole = Qt::UserRole;
constexpr int indexRole = Qt::UserRole + 1;

QStringList inQt(const std::vector<std::string>& users)
{
    QStringList words;
    for (const std::string& user : users) {
        words << QString::fromStdString(user);
    }
    return words;
}

} // namespace

NamesDialog::NamesDialog(Session& session, QWidget* parent)
    : QDialog(parent), session_(session), tree_(new QTreeWidget), users_(new QLabel), remove_(new QPushButton(tr("Delete…")))
{
    setObjectName("names");
    setWindowTitle(tr("Names"));
    resize(560, 520);
    tree_->setObjectName("namesTree");
    tree_->setAccessibleName(tr("Everything that has a name"));
    tree_->setColumnCount(2);
    tree_->setHeaderLabels({tr("Name"), tr("Used by")});
    tree_->header()->setStretchLastSection(true);
    tree_->setColumnWidth(0, 260);
    tree_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    users_->setObjectName("namesUsers");
    users_->setWordWrap(true);
    users_->setMinimumHeight(44);
    users_->setAlignment(Qt::AlignTop);
    remove_->setObjectName("namesDelete");
    auto* rename = new QPushButton(tr("Rename"));
    rename->setObjectName("namesRename");
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    buttons->addButton(rename, QDialogButtonBox::ActionRole);
    buttons->addButton(remove_, QDialogButtonBox::ActionRole);
    auto* box = new QVBoxLayout(this);
    box->addWidget(tree_, 1);
    box->addWidget(users_);
    box->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(rename, &QPushButton::clicked, this, [this] {
        if (current()) {
            tree_->editItem(tree_->currentItem(), 0);
        }
    });
    connect(remove_, &QPushButton::clicked, this, &NamesDialog::removeCurrent);
    auto* key = new QShortcut(QKeySequence::Delete, tree_, nullptr, nullptr, Qt::WidgetShortcut);
    connect(key, &QShortcut::activated, this, &NamesDialog::removeCurrent);
    connect(tree_, &QTreeWidget::currentItemChanged, this, &NamesDialog::tellUsers);
    connect(tree_, &QTreeWidget::itemChanged, this, &NamesDialog::renamed);
    connect(&session_, &Session::documentChanged, this, &NamesDialog::refresh);
    makeProjectKinds();
    makeLevelKinds();
    refresh();
}

void NamesDialog::makeProjectKinds()
{
    const auto add = [this](const QString& one, const QString& many, auto member) {
        Kind kind{one, many, {}, {}, {}};
        kind.list = [member](const Project& project) {
            std::vector<Named> named;
            for (const auto& thing : project.*member) {
                using Id = std::remove_cvref_t<decltype(thing->id)>;
                QStringList users;
                if constexpr (!std::is_same_v<Id, LevelId> && !std::is_same_v<Id, RigId> && !std::is_same_v<Id, GazeId>) {
                    users = inQt(whoUses(project, thing->id));
                }
                named.push_back({QString::fromStdString(thing->name), users});
            }
            return named;
        };
        kind.rename = [member](Project& project, std::size_t index, const std::string& name) {
            auto thing = *(project.*member)[index];
            thing.name = name;
            (project.*member).put(std::move(thing));
        };
        kind.remove = [member](Project& project, std::size_t index) {
            const auto id = (project.*member)[index]->id;
            (project.*member).remove(id);
        };
        kinds_.push_back(std::move(kind));
    };
    add(tr("sound"), tr("Sounds"), &Project::sounds);
    add(tr("falloff"), tr("Shared falloffs"), &Project::falloffs);
    add(tr("family"), tr("Families"), &Project::families);
    add(tr("pattern"), tr("Patterns"), &Project::patterns);
    add(tr("signal"), tr("Signals"), &Project::signalNames);
    add(tr("game value"), tr("Game values"), &Project::gameValues);
    add(tr("gaze"), tr("Gazes"), &Project::gazes);
    add(tr("rig"), tr("Rigs"), &Project::rigs);
    Kind materials{tr("material"), tr("Own materials"), {}, {}, {}};
    materials.list = [](const Project& project) {
        std::vector<Named> named;
        for (const Material& material : project.materials) {
            named.push_back({QString::fromStdString(material.name), inQt(whoUses(project, material.id))});
        }
        return named;
    };
    materials.rename = [](Project& project, std::size_t index, const std::string& name) {
        project.materials[index].name = name;
    };
    materials.remove = [](Project& project, std::size_t index) {
        project.materials.erase(project.materials.begin() + static_cast<std::ptrdiff_t>(index));
    };
    kinds_.push_back(std::move(materials));
    add(tr("level"), tr("Levels"), &Project::levels);
}

void NamesDialog::makeLevelKinds()
{
    const auto add = [this](const QString& one, const QString& many, auto member) {
        Kind kind{one, many, {}, {}, {}};
        const auto change = [this, member](Project& project, const auto& act) {
            project = withLevel(std::move(project), session_.levelId(), [&](Level& level) { act(level.*member); });
        };
        kind.list = [this, member](const Project& project) {
            std::vector<Named> named;
            for (const auto& thing : session_.level().*member) {
                QStringList users;
                using Id = std::remove_cvref_t<decltype(thing->id)>;
                if constexpr (std::is_same_v<Id, ZoneId> || std::is_same_v<Id, EmitterId>) {
                    users = inQt(whoUses(project, thing->id, session_.levelId()));
                }
                named.push_back({QString::fromStdString(thing->name), users});
            }
            return named;
        };
        kind.rename = [change](Project& project, std::size_t index, const std::string& name) {
            change(project, [&](auto& list) {
                auto thing = *list[index];
                thing.name = name;
                list.put(std::move(thing));
            });
        };
        kind.remove = [change](Project& project, std::size_t index) {
            change(project, [&](auto& list) {
                const auto id = list[index]->id;
                list.remove(id);
            });
        };
        kinds_.push_back(std::move(kind));
    };
    add(tr("emitter"), tr("Emitters of this level"), &Level::emitters);
    add(tr("zone"), tr("Zones of this level"), &Level::zones);
    add(tr("room"), tr("Rooms of this level"), &Level::rooms);
    add(tr("opening"), tr("Openings of this level"), &Level::openings);
    add(tr("walk"), tr("Walks of this level"), &Level::walks);
    add(tr("plant rule"), tr("Plant rules of this level"), &Level::plants);
}

void NamesDialog::refresh()
{
    const auto was = current();
    const QSignalBlocker quiet(tree_);
    const bool first = tree_->topLevelItemCount() == 0;
    if (first) {
        for (const Kind& kind : kinds_) {
            auto* head = new QTreeWidgetItem(tree_, {kind.many});
            head->setFlags(Qt::ItemIsEnabled);
        }
    }
    for (std::size_t kind = 0; kind < kinds_.size(); ++kind) {
        QTreeWidgetItem* head = tree_->topLevelItem(static_cast<int>(kind));
        const std::vector<Named> named = kinds_[kind].list(session_.project());
        while (head->childCount() > static_cast<int>(named.size())) {
            delete head->takeChild(head->childCount() - 1);
        }
        while (head->childCount() < static_cast<int>(named.size())) {
            auto* row = new QTreeWidgetItem(head);
            row->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable);
            row->setData(0, kindRole, static_cast<int>(kind));
        }
        for (int i = 0; i < head->childCount(); ++i) {
            const Named& thing = named[static_cast<std::size_t>(i)];
            QTreeWidgetItem* row = head->child(i);
            row->setText(0, thing.name);
            row->setData(0, indexRole, i);
            row->setText(1, thing.users.isEmpty() ? QString() : tr("%n", nullptr, static_cast<int>(thing.users.size())));
        }
        head->setText(0, QString("%1 (%2)").arg(kinds_[kind].many).arg(head->childCount()));
        head->setHidden(head->childCount() == 0);
        constexpr int fewEnough = 12;
        if (first) {
            head->setExpanded(head->childCount() <= fewEnough);
        }
    }
    if (was) {
        QTreeWidgetItem* head = tree_->topLevelItem(static_cast<int>(was->first));
        const int row = std::min(static_cast<int>(was->second), head->childCount() - 1);
        tree_->setCurrentItem(row >= 0 ? head->child(row) : nullptr);
    }
    tellUsers();
}

std::optional<std::pair<std::size_t, std::size_t>> NamesDialog::current() const
{
    const QTreeWidgetItem* item = tree_->currentItem();
    if (item == nullptr || item->parent() == nullptr) {
        return {};
    }
    return std::pair(static_cast<std::size_t>(item->data(0, kindRole).toInt()),
                     static_cast<std::size_t>(item->data(0, indexRole).toInt()));
}

void NamesDialog::tellUsers()
{
    const auto marked = current();
    remove_->setEnabled(marked.has_value());
    if (!marked) {
        users_->setText(tr("Double-click a name, or F2, to change it. Ids stay: whoever uses it goes on using it."));
        return;
    }
    const QStringList users = kinds_[marked->first].list(session_.project())[marked->second].users;
    constexpr int most = 6;
    users_->setText(
        users.isEmpty()
            ? tr("Nothing refers to it.")
            : tr("Used by %1%2.")
                  .arg(users.mid(0, most).join(", "),
                       users.size() > most ? tr(" and %n more", nullptr, static_cast<int>(users.size()) - most) : QString()));
}

void NamesDialog::renamed(QTreeWidgetItem* item, int column)
{
    if (item->parent() == nullptr || column != 0) {
        return;
    }
    const Kind& kind = kinds_[static_cast<std::size_t>(item->data(0, kindRole).toInt())];
    const auto index = static_cast<std::size_t>(item->data(0, indexRole).toInt());
    const QString before = kind.list(session_.project())[index].name;
    const QString after = item->text(0).trimmed();
    if (!after.isEmpty() && after != before) {
        Project next = session_.project();
        kind.rename(next, index, after.toStdString());
        session_.edit(std::move(next), tr("The %1 %2 is called %3").arg(kind.one, before, after));
    }
    refresh();
}

void NamesDialog::removeCurrent()
{
    const auto marked = current();
    if (!marked) {
        return;
    }
    const Kind& kind = kinds_[marked->first];
    const Named thing = kind.list(session_.project())[marked->second];
    if (kind.one == tr("level") && session_.project().levels.size() == 1) {
        users_->setText(tr("A project has at least one level."));
        return;
    }
    if (!thing.users.isEmpty()) {
        QMessageBox ask(QMessageBox::Question, tr("Delete %1").arg(thing.name),
                        tr("The %1 %2 is used by %n others. They stay, without it; findings will name them.", nullptr,
                           static_cast<int>(thing.users.size()))
                            .arg(kind.one, thing.name),
                        QMessageBox::Cancel, this);
        ask.setObjectName("namesAsk");
        ask.setInformativeText(thing.users.join("\n"));
        const QPushButton* yes = ask.addButton(tr("Delete it"), QMessageBox::DestructiveRole);
        ask.exec();
        if (ask.clickedButton() != yes) {
            return;
        }
    }
    Project next = session_.project();
    kind.remove(next, marked->second);
    session_.edit(std::move(next), tr("Delete the %1 %2").arg(kind.one, thing.name));
}

} // namespace stone
