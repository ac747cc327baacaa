#pragma once

#include "app/session/session.h"
#include "app/widgets/number_field.h"

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace stone
{

/// The shown level's settings: its name, what lies on the sheet, what one unit is, how the character walks.
class LevelDialog : public QDialog
{
    Q_OBJECT

public:
    explicit LevelDialog(Session& session, QWidget* parent = nullptr);

private:
    void chooseFile();
    void refreshKind();
    Geometry geometryFrom(const Geometry& before) const;
    void apply();

    Session& session_;
    QLineEdit* name_;
    QComboBox* kind_;
    QLabel* file_;
    QPushButton* choose_;
    QComboBox* up_;
    NumberField* unit_;
    NumberField* width_;
    NumberField* speed_;
    NumberField* ears_;
    NumberField* echoes_;
    QString chosen_; ///< as the document will name it
};

} // namespace stone
