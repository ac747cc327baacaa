#pragma once

#include "app/bench/number_field.h"
#include "app/session/session.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>

#include <functional>
#include <vector>

namespace stone
{

/// Fields that show and change a sound and one of its files. Each knows what it is about by a function; edits go through
/// the session's history.
class SoundForm : public QWidget
{
    Q_OBJECT

public:
    explicit SoundForm(Session& session, QWidget* parent = nullptr);

    void showSound(const SoundId& id, std::size_t file);
    virtual void refresh();

protected:
    struct NumberWords {
        const char* name; ///< of the widget
        QString unit;
        QString what; ///< for the history, with %1 for the value
        QString help;
    };
    struct NumberRange {
        double least;
        double most;
        int decimals;
        double step;
        double scale = 1.0; ///< shown number for 1 of the document's
    };

    NumberField* number(const NumberWords& words, const NumberRange& range, std::function<double&(Sound&)> member);
    QLineEdit* words(const char* name, const QString& label, std::function<std::string&(Sound&)> member);
    QCheckBox* flag(const char* name, const QString& label, const QString& help, std::function<bool&(Sound&)> member);
    QComboBox* choice(const char* name, const QString& label, const QStringList& words, std::function<int(const Sound&)> get,
                      std::function<void(Sound&, int)> set);

    /// Puts a label over a field.
    static QWidget* labelled(const QString& label, QWidget* field);

    void edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change);
    const Sound* sound() const { return session_.project().sounds.find(id_); }
    std::size_t file() const { return file_; }
    /// The file that is chosen; one to throw away when there is none.
    SoundFile& fileOf(Sound& sound) const;

    Session& session_;

private:
    SoundId id_;
    std::size_t file_ = 0;
    mutable SoundFile none_;
    std::vector<std::function<void(const Sound&)>> shows_;
};

} // namespace stone
