package planning

import (
	"go/ast"
	"go/parser"
	"go/token"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every question and answer of the table has its constant, and no constant is of
// something that is not asked.
func TestAnswersAreThoseOfTheTable(t *testing.T) {
	f, err := parser.ParseFile(token.NewFileSet(), "answers.go", nil, 0)
	require.NoError(t, err)
	named := map[string]map[string]int{"QuestionID": {}, "AnswerID": {}}
	for _, d := range f.Decls {
		g, ok := d.(*ast.GenDecl)
		if !ok || g.Tok != token.CONST {
			continue
		}
		for _, s := range g.Specs {
			v := s.(*ast.ValueSpec)
			value, err := strconv.Unquote(v.Values[0].(*ast.BasicLit).Value)
			require.NoError(t, err)
			named[v.Type.(*ast.Ident).Name][value]++
		}
	}
	questions, answers := map[string]int{}, map[string]int{}
	for _, q := range Questions() {
		questions[string(q.ID)]++
		for _, p := range q.Positions {
			answers[string(p.ID)]++
		}
	}
	assert.Equal(t, questions, named["QuestionID"])
	assert.Equal(t, answers, named["AnswerID"])
}
