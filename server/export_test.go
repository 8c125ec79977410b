package server

import (
	"reflect"
	"time"
)

// Hurry shortens how long a request may take to arrive.
func Hurry(d time.Duration) (back func()) {
	was := bodyArrives
	bodyArrives = d
	return func() { bodyArrives = was }
}

// Asked is a route as it is asked: how, where, and what a query may name.
type Asked struct {
	Method, Path string
	Names        []string
}

// Routed are all routes.
func Routed() (list []Asked) {
	for _, r := range routes(nil) {
		x := Asked{Method: r.method, Path: "/api" + r.path}
		for i := range fields(r.in) {
			if n := r.in.Field(i).Tag.Get("query"); n != "" {
				x.Names = append(x.Names, n)
			}
		}
		list = append(list, x)
	}
	for _, s := range streams(new(Server)) {
		list = append(list, Asked{get, "/api" + s.path, s.names})
	}
	return list
}

func fields(t reflect.Type) int {
	if t == nil || t.Kind() != reflect.Struct {
		return 0
	}
	return t.NumField()
}

// AccountOf asks the kernel whose a connection is.
var AccountOf = accountOf
