package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// A stand-in of the command line is a device for any client: it identifies itself, can be tared, and has a
// hand that pours a recipe.
func TestStandInServesClients(t *testing.T) {
	t.Parallel()
	recipe := filepath.Join(t.TempDir(), "recipe.json")
	if err := os.WriteFile(recipe, []byte(recipeFile), 0o600); err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	var out output
	c := standinCommand()
	c.SetOut(&out)
	c.SetArgs([]string{"scale", "--tcp", "127.0.0.1:0", "--ws", "127.0.0.1:0", "--pour", recipe, "--manner", "practised"})
	ended := make(chan error, 1)
	go func() { ended <- c.ExecuteContext(ctx) }()
	addr := ""
	for i := 0; i < 6000 && addr == ""; i++ {
		time.Sleep(10 * time.Millisecond)
		if _, rest, ok := strings.Cut(out.String(), "tcp://"); ok && strings.Contains(rest, "ws://") {
			addr, _, _ = strings.Cut(rest, "\n")
		}
	}
	conn, err := net.Dial("tcp", addr)
	if err != nil {
		t.Fatalf("%q: %v", out.String(), err)
	}
	defer conn.Close()
	lines := bufio.NewScanner(conn)
	if lines.Scan(); !strings.Contains(lines.Text(), `"device":"scale"`) {
		t.Errorf("it begins with %q", lines.Text())
	}
	fmt.Fprintln(conn, `{"do":"tare"}`)
	poured := false
	for i := 0; i < 100 && !poured && lines.Scan(); i++ {
		var g float64
		if _, err := fmt.Sscanf(lines.Text(), `{"g":%g}`, &g); err == nil && i > 45 && g > 3 && g < 60 {
			poured = true
		}
	}
	if !poured {
		t.Error("no water was poured after the tare")
	}
	stop()
	if err := <-ended; err != nil {
		t.Errorf("ended with %v", err)
	}
}

func TestInvalidStandInOptions(t *testing.T) {
	t.Parallel()
	for _, args := range [][]string{{"oven"}, {"scale", "--pour", "nowhere.json"}, {"scale", "--pour", "standin_test.go"}} {
		c := standinCommand()
		var bad badInput
		if _, err := run(t, c, "", append(args, "--tcp", "127.0.0.1:0")...); !errors.As(err, &bad) {
			t.Errorf("%v: %v", args, err)
		}
	}
}
