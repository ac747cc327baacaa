#include "app/sounds/sound_form.h"

#include "app/theme/labels.h"

#include <QSignalBlocker>
#include <QVBoxLayout>

#include <utility>

namespace stone
{

SoundForm::SoundForm(Session& session, QWidget* parent) : QWidget(parent), session_(session)
{
}

void SoundForm::showSound(const SoundId& id, std::size_t file)
{
    id_ = id;
    file_ = file;
    refresh();
}

void SoundForm::refresh()
{
    if (const Sound* shown = sound()) {
        for (const auto& show : shows_) {
            show(*shown);
        }
    }
}

SoundFile& SoundForm::fileOf(Sound& sound) const
{
    return file_ < sound.files.size() ? sound.files[file_] : none_;
}

void SoundForm::edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change)
{
    session_.editSound(id_, what, gesture, change);
}

NumberField* SoundForm::number(const NumberWords& words, const NumberRange& range, std::function<double&(Sound&)> member)
{
    auto* field = new NumberField(words.unit, range.least, range.most, range.decimals, range.step);
    field->setObjectName(words.name);
    field->setToolTip(words.help);
    field->setAccessibleDescription(words.help);
    shows_.push_back([field, member, scale = range.scale](const Sound& shown) {
        Sound copy = shown;
        field->present(member(copy) * scale);
    });
    connect(field, &NumberField::valueEdited, this,
            [this, field, member, what = words.what, scale = range.scale](double value) {
                edit(what.arg(value), field->objectName(), [&](Sound& s) { member(s) = value / scale; });
            });
    connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    return field;
}

QLineEdit* SoundForm::words(const char* name, const QString& label, std::function<std::string&(Sound&)> member)
{
    auto* field = new QLineEdit;
    field->setObjectName(name);
    field->setAccessibleName(label);
    shows_.push_back([field, member](const Sound& shown) {
        if (!field->hasFocus()) {
            Sound copy = shown;
            field->setText(QString::fromStdString(member(copy)));
        }
    });
    connect(field, &QLineEdit::editingFinished, this, [this, field, label, member] {
        if (field->isModified()) {
            field->setModified(false);
            edit(label.toLower(), {}, [&](Sound& s) { member(s) = field->text().trimmed().toStdString(); });
        }
    });
    return field;
}

QCheckBox* SoundForm::flag(const char* name, const QString& label, const QString& help, std::function<bool&(Sound&)> member)
{
    auto* box = new QCheckBox(label);
    box->setObjectName(name);
    box->setToolTip(help);
    shows_.push_back([box, member](const Sound& shown) {
        Sound copy = shown;
        box->setChecked(member(copy));
    });
    connect(box, &QCheckBox::clicked, this, [this, label, member](bool on) {
        edit(on ? tr("%1 on").arg(label) : tr("%1 off").arg(label), {}, [&](Sound& s) { member(s) = on; });
    });
    return box;
}

QComboBox* SoundForm::choice(const char* name, const QString& label, const QStringList& words,
                             std::function<int(const Sound&)> get, std::function<void(Sound&, int)> set)
{
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    box->addItems(words);
    shows_.push_back([box, get](const Sound& shown) {
        const QSignalBlocker quiet(box);
        box->setCurrentIndex(get(shown));
    });
    connect(box, &QComboBox::activated, this,
            [this, box, set](int index) { edit(box->itemText(index), {}, [&](Sound& s) { set(s, index); }); });
    return box;
}

QWidget* SoundForm::labelled(const QString& label, QWidget* field)
{
    auto* both = new QWidget;
    auto* box = new QVBoxLayout(both);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(1);
    box->addWidget(theme::caption(label));
    box->addWidget(field);
    if (field->accessibleName().isEmpty()) {
        field->setAccessibleName(label);
    }
    return both;
}

} // namespace stone
