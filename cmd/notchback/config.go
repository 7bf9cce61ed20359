package main

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"

	"github.com/joho/godotenv"
)

// knob is a setting of the program. It is given by a flag (--addr=…), by the environment
// (NOTCHBACK_ADDR) or by a line of the configuration file (NOTCHBACK_ADDR=…), whichever
// comes first in this order.
type knob struct {
	name   string // without NOTCHBACK_
	preset string
	secret bool // holds a password: never printed
	says   string
}

// knobs are all settings, in the order they are printed.
var knobs = []knob{
	{"DATABASE_URL", "", true, "the database, as the server's role"},
	{"OWNER_URL", "", true, "the database, as its owner: for migrate, backup, restore, doctor, demo"},
	{"CLIPS", "", false, "a folder for clips and photos; none are taken without one"},
	{"ADDR", defaultAddr, false, "host:port to listen on"},
	{"TLS_CERT", "", false, "a certificate's file (PEM), to answer by https itself"},
	{"TLS_KEY", "", false, "and its key's file"},
	{"PUBLIC_URL", "", false, "https://… where a proxy in front answers by https"},
	{"PROXIES", "", false, "addresses or networks of such proxies, with commas"},
	{"PLAIN_HTTP", "no", false, "yes: http without encryption on other than loopback"},
	{"METRICS_ADDR", "", false, "host:port for Prometheus, of its own; nothing is measured for others without one"},
	{"TRACES_TO", "", false, "http://… of a collector of OpenTelemetry (OTLP over HTTP); it is told how long operations, jobs and statements took, not whom they are about"},
	{"LOG", "warn", false, "error, warn, or info for a line a request"},
	{"BACKUP_DIR", "", false, "a folder for backups"},
	{"BACKUP_TO", "", false, "whom backups are sealed for: age1…, with commas (see backup-key)"},
	{"BACKUP_KEY", "", false, "the key's file, to check and restore; it need not lie on the server"},
}

const (
	envStart   = "NOTCHBACK_"
	usualFile  = "/etc/notchback/notchback.conf"
	configFlag = "--config="
)

// sources says where each setting came from.
type sources map[string]string

// configure lays flags over the environment over the file, so that the rest of the program
// finds all in the environment, and returns the arguments that are no settings.
func configure(args []string) (rest []string, from sources, err error) {
	from = sources{}
	file, given := usualFile, false
	if v := os.Getenv(envStart + "CONFIG"); v != "" {
		file, given = v, true
	}
	flags := map[string]string{}
	for _, a := range args {
		if v, ok := strings.CutPrefix(a, configFlag); ok {
			file, given = v, true
			continue
		}
		name, v, ok := strings.Cut(strings.TrimPrefix(a, "--"), "=")
		name = strings.ToUpper(strings.ReplaceAll(name, "-", "_"))
		if !strings.HasPrefix(a, "--") || !ok || !slices.ContainsFunc(knobs, func(k knob) bool { return k.name == name }) {
			rest = append(rest, a)
			continue
		}
		flags[name] = v
	}
	lines, err := godotenv.Read(file)
	switch {
	case errors.Is(err, fs.ErrNotExist) && !given:
	case errors.Is(err, fs.ErrPermission) && !given:
	case err != nil:
		return nil, nil, fmt.Errorf("the configuration file %s: %w", file, err)
	}
	for name := range lines {
		short, ok := strings.CutPrefix(name, envStart)
		if !ok || !slices.ContainsFunc(knobs, func(k knob) bool { return k.name == short }) {
			return nil, nil, fmt.Errorf("the configuration file %s: there is no setting %s; see the command config", file, name)
		}
	}
	for _, k := range knobs {
		v, where := "", ""
		switch {
		case flags[k.name] != "":
			v, where = flags[k.name], "flag"
		case os.Getenv(envStart+k.name) != "":
			v, where = os.Getenv(envStart+k.name), "environment"
		case lines[envStart+k.name] != "":
			v, where = lines[envStart+k.name], file
		case k.preset != "":
			v, where = k.preset, "by default"
		default:
			continue
		}
		from[k.name] = where
		if err := os.Setenv(envStart+k.name, v); err != nil {
			return nil, nil, err
		}
	}
	return rest, from, nil
}

// printConfig prints every setting with where it came from; passwords are left out.
func printConfig(w io.Writer, from sources) {
	for _, k := range knobs {
		v := os.Getenv(envStart + k.name)
		if k.secret && v != "" {
			v = "(set)"
		}
		_, _ = fmt.Fprintf(w, "# %s\n", k.says)
		if where := from[k.name]; where != "" {
			_, _ = fmt.Fprintf(w, "%s%s=%s  # %s\n\n", envStart, k.name, v, where)
		} else {
			_, _ = fmt.Fprintf(w, "#%s%s=\n\n", envStart, k.name)
		}
	}
}
