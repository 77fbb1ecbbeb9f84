package sections

import (
	"maps"
	"reflect"
	"slices"

	"zetanum/core/condition"
)

// WithLists returns the rulebook with the lists that its conditions name in place
// of their files.
func (b *Book) WithLists(read func(file string) ([]string, error)) (Book, error) {
	c := b.withConditions(func(file string) (any, error) {
		values, err := read(file)
		list := make([]any, len(values))
		for i, v := range values {
			list[i] = v
		}
		return list, err
	})
	return c.book, c.err
}

// A copier copies a rulebook, with other lists in its conditions.
type copier struct {
	book   Book
	change func(file string) (any, error)
	err    error
}

func (b *Book) withConditions(change func(file string) (any, error)) *copier {
	c := &copier{book: *b, change: change}
	c.walk(reflect.ValueOf(&c.book).Elem())
	return c
}

// walk copies what is below a value and changes the conditions in it.
func (c *copier) walk(v reflect.Value) {
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				c.walk(v.Field(i))
			}
		}
	case reflect.Slice:
		if v.Len() == 0 {
			return
		}
		list := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		reflect.Copy(list, v)
		if v.Type().Elem().Kind() == reflect.Struct {
			for i := range list.Len() {
				c.walk(list.Index(i))
			}
		}
		v.Set(list)
	case reflect.Map:
		if table, ok := v.Interface().(map[string]any); ok {
			if table != nil {
				v.Set(reflect.ValueOf(c.table(table)))
			}
			return
		}
		if v.Type().Elem().Kind() != reflect.Pointer || v.Len() == 0 {
			return
		}
		all := reflect.MakeMap(v.Type())
		for _, key := range v.MapKeys() {
			one := reflect.New(v.Type().Elem().Elem())
			one.Elem().Set(v.MapIndex(key).Elem())
			c.walk(one.Elem())
			all.SetMapIndex(key, one)
		}
		v.Set(all)
	}
}

// table copies a condition.
func (c *copier) table(table map[string]any) map[string]any {
	out := maps.Clone(table)
	for key, value := range out {
		switch v := value.(type) {
		case map[string]any:
			out[key] = c.table(v)
		case []any:
			list := slices.Clone(v)
			for i := range list {
				if t, ok := list[i].(map[string]any); ok {
					list[i] = c.table(t)
				}
			}
			out[key] = list
		case string:
			if key != condition.Listed {
				continue
			}
			changed, err := c.change(v)
			if err != nil {
				if c.err == nil {
					c.err = err
				}
				continue
			}
			out[key] = changed
		}
	}
	return out
}
