package store

import (
	"database/sql"
	"time"

	"gorm.io/gorm/clause"
)

// BoardLine is a board without its content.
type BoardLine struct {
	Board
	Sheets, Answers int
	Newest          *time.Time // when somebody last answered
}

// Boards lists the boards of a house, the one that was changed last first.
func (d *DB) Boards(house int64) (out []BoardLine, err error) {
	return out, d.scan(`SELECT b.id, b.title, b.version, b.by_name, b.changed_at, COUNT(DISTINCT s.id), COUNT(a.id), MAX(a.at) FROM boards b
		LEFT JOIN board_sheets s ON s.board_id = b.id LEFT JOIN board_answers a ON a.sheet_id = s.id
		WHERE b.house_id = ? GROUP BY b.id ORDER BY b.changed_at DESC, b.id DESC`, []any{house}, func(rows *sql.Rows) error {
		var l BoardLine
		err := rows.Scan(&l.ID, &l.Title, &l.Version, &l.ByName, &l.ChangedAt, &l.Sheets, &l.Answers, &l.Newest)
		out = append(out, l)
		return err
	})
}

// Board reads a board.
func (d *DB) Board(house, id int64) (Board, error) {
	return one[Board](d.g.Where("house_id = ? AND id = ?", house, id))
}

// CountBoards counts the boards of a house.
func (d *DB) CountBoards(house int64) (n int64, err error) {
	return n, known(d.g.Model(&Board{}).Where("house_id = ?", house).Count(&n).Error)
}

// DeleteBoard deletes a board with everything of it; that nothing was shown of it, the caller sees to.
func (d *DB) DeleteBoard(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Board{}))
}

// BoardSheets lists the sheets of a board, newest first.
func (d *DB) BoardSheets(house, board int64) ([]BoardSheet, error) {
	return many[BoardSheet](d.g.Where("house_id = ? AND board_id = ?", house, board).Order("number DESC"))
}

// BoardSheet reads a sheet by its own number.
func (d *DB) BoardSheet(house, id int64) (BoardSheet, error) {
	return one[BoardSheet](d.g.Where("house_id = ? AND id = ?", house, id))
}

// BoardSheetNumbered reads a sheet of a board.
func (d *DB) BoardSheetNumbered(house, board int64, number int) (BoardSheet, error) {
	return one[BoardSheet](d.g.Where("house_id = ? AND board_id = ? AND number = ?", house, board, number))
}

// BoardAnswers lists the answers to the sheets of a board, in the order in which they came.
func (d *DB) BoardAnswers(board int64) ([]BoardAnswer, error) {
	return many[BoardAnswer](d.g.Where("sheet_id IN (SELECT id FROM board_sheets WHERE board_id = ?)", board).Order("id"))
}

// AnswersTo lists the answers to a sheet and keeps others from adding some.
func (d *DB) AnswersTo(sheet int64) ([]BoardAnswer, error) {
	return many[BoardAnswer](d.locked().Where("sheet_id = ?", sheet).Order("id"))
}

// Typefaces lists the typefaces of a house that were not taken away, without their data.
func (d *DB) Typefaces(house int64) ([]Typeface, error) {
	return many[Typeface](d.g.Omit("data").Where("house_id = ? AND removed_at IS NULL", house).Order("name, id"))
}

// Typeface reads a typeface, taken away or not.
func (d *DB) Typeface(house, id int64) (Typeface, error) {
	return one[Typeface](d.g.Where("house_id = ? AND id = ?", house, id))
}

// RemoveTypeface takes a typeface away; sheets keep it.
func (d *DB) RemoveTypeface(house, id int64, now time.Time) error {
	return gone(d.g.Model(&Typeface{}).Where("house_id = ? AND id = ? AND removed_at IS NULL", house, id).Update("removed_at", now))
}

// Logo reads a logo by its checksum.
func (d *DB) Logo(house int64, sum string) (Logo, error) {
	return one[Logo](d.g.Where("house_id = ? AND sha256 = ?", house, sum))
}

// KeepLogo keeps a logo, once.
func (d *DB) KeepLogo(l Logo) error {
	return known(d.g.Clauses(clause.OnConflict{DoNothing: true}).Create(&l).Error)
}
