package asking_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/asking"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/core/template"
	"zetanum/demo"
	"zetanum/internal/brief"
)

// begin lays the demo out and begins a talk about one of its files.
func begin(t *testing.T, dir, file string, given sections.Given) *asking.Talk {
	t.Helper()
	talk, err := asking.Begin(t.Context(), repair.Options{Input: filepath.Join(dir, file), Workers: 2, Date: "2026-12-01"}, filepath.Join(dir, "asked.toml"), given, nil)
	require.NoError(t, err)
	return talk
}

// answer gives the way of that number to the questions that are open, as long as there are any whose answers do something, and returns their names.
func answer(t *testing.T, talk *asking.Talk, number int) (names []string) {
	t.Helper()
	var idle []string
	for range 200 {
		open, err := talk.Questions()
		require.NoError(t, err)
		each := make(map[string]bool)
		for _, q := range open {
			assert.False(t, each[q.Name], "two questions are called %s", q.Name)
			each[q.Name] = true
		}
		open = slices.DeleteFunc(open, func(q sections.Question) bool { return slices.Contains(idle, q.Name) })
		if len(open) == 0 {
			return names
		}
		q := &open[0]
		before, was := text(talk), talk.Now().Counts()
		way := &q.Ways[min(number, len(q.Ways)-1)]
		orders := way.Orders
		if way.Type != "" {
			if orders, err = way.With("https://pictures.example/a.jpg"); err != nil {
				orders, err = way.With("12.5 %")
			}
			require.NoError(t, err, q.Says)
		}
		effect, err := talk.Try(q, way, orders)
		require.NoError(t, err, q.Says)
		if !q.Blind && !talk.Does(q, effect) {
			idle = append(idle, q.Name)
			continue
		}
		require.NoError(t, talk.Answer(q, effect))
		names = append(names, q.Name)
		after := text(talk)
		for line := range strings.Lines(before) { // all that stood there stays, but for the ends of lists and what is put in place of a value
			if strings.HasPrefix(line, "#") {
				assert.Contains(t, after, line)
			}
		}
		assert.Contains(t, strings.ReplaceAll(after, "\n# ", " "), strings.Join(strings.Fields(q.Says), " "))
		book, err := sections.Load(talk.Path())
		require.NoError(t, err, after)
		assert.NotNil(t, book)
		if !q.Last {
			continue
		}
		assert.LessOrEqual(t, talk.Now().Counts().Held, was.Held, q.Says)
	}
	t.Fatal("it does not end")
	return nil
}

func text(talk *asking.Talk) string {
	content, err := os.ReadFile(talk.Path())
	if err != nil {
		return ""
	}
	return string(content)
}

// TestTalk: by answering alone each file of the demo becomes ready, as far as it can; what is asked again is nothing then.
func TestTalk(t *testing.T) {
	for _, test := range brief.Sample([]struct {
		file, form, shop string
		number           int // of the way that is taken
		held             int // rows that stay
		asked            []string
	}{
		{"odds-and-ends.csv", "", "", 0, 0, []string{"barcode.trusted=odds-last-year.csv", "answers.yes=barcode.last-zero=EAN"}},
		{"saltmarsh-export.csv", "", "", 0, 0, []string{"description.untidy", "barcode.trusted=stock-take.xlsx", "barcode.rounded=Barcode", "sku.duplicate"}},
		{"own-make-2.csv", "", "", 1, 0, []string{"barcode.trusted=own-make.csv", "mint.sku"}},
		{"quarrymill-prices.csv", "", "", 0, 0, []string{"price.written", "weight.unit", "sale_from.form", "price.sale-zero"}},
		{"millbrook-texts.csv", "", "", 0, 0, []string{"short_description.from", "description.untidy"}},
		{"wick-and-wax.xlsx", "", "wick-in-shop.csv", 0, 0, []string{"target.job", "barcode.trusted=combley-now.csv"}},
		{"hollowbrook-prices.csv", "shop-form.xlsx", "", 1, 0, []string{"target.columns=Main picture", "target.columns=Way of dispatch", "target.words=Shelf=Workshop"}},
		{"heathgate-catalogue.csv", "", "", 0, 0, nil},
	}, 3) {
		t.Run(test.file, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			require.NoError(t, demo.Lay(dir))
			given := sections.Given{Template: test.form, Export: test.shop}
			if test.form != "" {
				form, err := template.Learn(filepath.Join(dir, test.form))
				require.NoError(t, err)
				given.Platform = form
			}
			talk := begin(t, dir, test.file, given)
			names := answer(t, talk, test.number)
			for _, want := range test.asked {
				assert.Contains(t, names, want)
			}
			require.NoError(t, talk.Unfilled())
			assert.Equal(t, test.held, talk.Now().Counts().Held, text(talk))
			again := begin(t, dir, test.file, given)
			assert.Empty(t, answer(t, again, test.number), "what is answered is not asked again")
			assert.Equal(t, talk.Now().Counts(), again.Now().Counts())
		})
	}
}

// TestLeftAsItIs: what is answered with no orders nothing, and is not asked again; what is put off is.
func TestLeftAsItIs(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	talk := begin(t, dir, "saltmarsh-export.csv", sections.Given{})
	before := talk.Now().Counts()
	put := 0
	for ; ; put++ {
		open, err := talk.Questions()
		require.NoError(t, err)
		if len(open) == 0 {
			break
		}
		if put == 0 {
			talk.Later(&open[0])
			assert.False(t, talk.Written())
			continue
		}
		require.NoError(t, talk.Leave(&open[0]))
	}
	assert.Greater(t, put, 8)
	assert.Equal(t, before, talk.Now().Counts())
	book, err := sections.Load(talk.Path())
	require.NoError(t, err)
	assert.NotEmpty(t, book.Asked.No)
	again, err := begin(t, dir, "saltmarsh-export.csv", sections.Given{}).Questions()
	require.NoError(t, err)
	assert.Len(t, again, 1, "the one that was put off")
}

// TestBack: going back brings the rulebook, and what the file comes to, to where they were at each step; the first answer taken back leaves no file
// where there was none, and the one that was there where there was one.
func TestBack(t *testing.T) {
	for _, was := range []string{"", "# Ours.\n\n[text]\nquotes = \"plain\"\n"} {
		dir := t.TempDir()
		require.NoError(t, demo.Lay(dir))
		if was != "" {
			require.NoError(t, os.WriteFile(filepath.Join(dir, "asked.toml"), []byte(was), 0o600))
		}
		talk := begin(t, dir, "saltmarsh-export.csv", sections.Given{})
		type state struct {
			text  string
			ready int
		}
		states := []state{{text(talk), talk.Now().Counts().Ready}}
		for n := range 4 {
			open, err := talk.Questions()
			require.NoError(t, err)
			if n == 2 {
				talk.Later(&open[0])
			} else {
				effect, err := talk.Try(&open[0], &open[0].Ways[0], open[0].Ways[0].Orders)
				require.NoError(t, err)
				require.NoError(t, talk.Answer(&open[0], effect))
			}
			states = append(states, state{text(talk), talk.Now().Counts().Ready})
		}
		for n := 3; n >= 0; n-- {
			_, ok, err := talk.Back()
			require.NoError(t, err)
			require.True(t, ok)
			assert.Equal(t, states[n], state{text(talk), talk.Now().Counts().Ready})
		}
		_, ok, err := talk.Back()
		require.NoError(t, err)
		assert.False(t, ok)
		assert.Equal(t, was, text(talk))
		assert.Equal(t, was != "", exists(talk.Path()))
	}
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

// TestForms: lists and forms that were made by others: by taking the first answer that goes, each list comes into its form as far as answers can bring
// it there; it ends, and asked again nothing is left.
func TestForms(t *testing.T) {
	sources, err := filepath.Glob(filepath.Join("..", "template", "testdata", "t*", "source.*"))
	require.NoError(t, err)
	require.NotEmpty(t, sources)
	for _, source := range brief.Sample(sources, 4) {
		t.Run(filepath.Base(filepath.Dir(source)), func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			require.NoError(t, os.CopyFS(dir, os.DirFS(filepath.Dir(source))))
			forms, err := filepath.Glob(filepath.Join(dir, "template.*"))
			require.NoError(t, err)
			form, err := template.Learn(forms[0])
			require.NoError(t, err)
			given := sections.Given{Template: filepath.Base(forms[0]), Platform: form}
			talk := begin(t, dir, filepath.Base(source), given)
			asked := 0
			for ; asked < 150; asked++ {
				open, err := talk.Questions()
				require.NoError(t, err)
				if len(open) == 0 {
					break
				}
				q := &open[0]
				if !takes(talk, q, form) {
					require.NoError(t, talk.Leave(q))
				}
			}
			assert.Less(t, asked, 150, "it does not end")
			_, err = sections.Load(talk.Path())
			require.NoError(t, err, text(talk))
			require.NoError(t, talk.Unfilled())
			assert.LessOrEqual(t, talk.Now().Counts().Held, 1, "an order may stand in the way of another: %s", text(talk))
			t.Logf("%d questions; %+v", asked, talk.Now().Counts())
			again, err := begin(t, dir, filepath.Base(source), given).Questions()
			require.NoError(t, err)
			assert.Empty(t, again)
		})
	}
}

// takes gives the first answer that goes and does something, and reports whether there is one.
func takes(talk *asking.Talk, q *sections.Question, form *template.Template) bool {
	for i := range q.Ways {
		way := &q.Ways[i]
		tries := []string{""}
		if way.Type != "" {
			tries = []string{"https://pictures.example/a.jpg", "12.5", "1", "2026-03-01", "Y"}
			for n := range form.Columns {
				if list := form.Columns[n].List; len(list) > 0 {
					tries = append(tries, list[0])
				}
			}
		}
		for _, typed := range tries {
			orders := way.Orders
			if way.Type != "" {
				var err error
				if orders, err = way.With(typed); err != nil {
					continue
				}
			}
			effect, err := talk.Try(q, way, orders)
			if err == nil && (q.Blind || talk.Does(q, effect)) && talk.Answer(q, effect) == nil {
				return true
			}
		}
	}
	return false
}

// TestUnfilled: whether the template has all that it demands is said of the rulebook as it stands, not of an answer that was only tried.
func TestUnfilled(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, demo.Lay(dir))
	form, err := template.Learn(filepath.Join(dir, "shop-form.xlsx"))
	require.NoError(t, err)
	talk := begin(t, dir, "hollowbrook-prices.csv", sections.Given{Template: "shop-form.xlsx", Platform: form})
	assert.False(t, talk.Written(), "a rulebook by which nothing can be written is no good to others in the folder")
	for want := range 3 {
		open, err := talk.Questions()
		require.NoError(t, err)
		require.ErrorIs(t, talk.Unfilled(), sections.ErrUnfilled, want)
		q := &open[0]
		way := &q.Ways[len(q.Ways)-1]
		orders := way.Orders
		if way.Type != "" && len(form.Columns) > 0 {
			if orders, err = way.With("https://pictures.example/a.jpg"); err != nil {
				orders, way = q.Ways[0].Orders, &q.Ways[0]
			}
		}
		effect, err := talk.Try(q, way, orders)
		require.NoError(t, err)
		require.ErrorIs(t, talk.Unfilled(), sections.ErrUnfilled)
		require.NoError(t, talk.Answer(q, effect))
		if talk.Unfilled() == nil {
			break
		}
	}
	require.NoError(t, talk.Unfilled())
	_, ok, err := talk.Back()
	require.NoError(t, err)
	require.True(t, ok)
	assert.ErrorIs(t, talk.Unfilled(), sections.ErrUnfilled)
}
