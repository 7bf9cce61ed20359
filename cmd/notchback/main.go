// Command notchback serves the application and looks after its database.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"os"
	"os/signal"
	"strconv"
	"syscall"
	"time"

	"notchback/app"
	"notchback/app/house"
	"notchback/core/figure"
	"notchback/devices"
	"notchback/devices/sidecam"
	"notchback/store"
	"notchback/store/blobs"
	"notchback/web"
)

const usage = `usage: notchback COMMAND
  serve     serve the application
  demo      load the demo practice into an empty database, then serve it
  migrate   bring the database to the newest version
  config    print every setting, what it is now and where that comes from
  doctor    look at all the program needs, and say what to do
  backup [FILE | --rotate | --check FILE]
            write a sealed backup while the server runs; with --rotate into the folder
            of backups, deleting old ones; or try one in a scratch database
  backup-key FILE
            make a key for backups: the file opens them, what is printed seals them
  restore --replace FILE
            bring a backup back: all of it or nothing; the server must be stopped
  export-practice FILE [PRACTICE]
            write one practice into a sealed file for another installation, while the
            server runs
  import-practice FILE
            take such a practice in, beside those that are here
  reset-password [-second-off] E-MAIL
            print a link by which somebody sets a new password
  review    do the nightly review now; serve does it by itself
  watch-folder DIR [WEEKS | dialects]
            a stand-in for a watch: drop made-up run files into a folder, of some
            weeks, or one of every dialect with what it really is
  side-camera DIR [CLIP]
            a stand-in for a camera: render the demo clips with their truth
  openapi   print the OpenAPI document
  outlines  print the parts figures are drawn of

Settings are flags (--addr=…), the environment (NOTCHBACK_ADDR) or lines of a file
(NOTCHBACK_ADDR=… in /etc/notchback/notchback.conf or the file of --config=), in this
order; notchback config prints them all.
`

const defaultAddr = "127.0.0.1:8420"

func main() {
	if len(os.Args) < 2 {
		fmt.Fprint(os.Stderr, usage)
		os.Exit(2)
	}
	args, from, err := configure(os.Args[2:])
	if err == nil {
		err = run(os.Args[1], args, from)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "notchback:", err)
		os.Exit(1)
	}
}

func run(command string, args []string, from sources) error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	switch command {
	case "outlines":
		return json.NewEncoder(os.Stdout).Encode(figure.Outlines())
	case "openapi":
		doc, err := web.OpenAPI()
		if err != nil {
			return err
		}
		fmt.Println(string(doc))
		return nil
	case "migrate":
		return migrate(ctx)
	case "config":
		printConfig(os.Stdout, from)
		return nil
	case "doctor":
		return doctor(ctx)
	case "backup":
		return backup(ctx, args)
	case "backup-key":
		return backupKey(args)
	case "restore":
		return restore(ctx, args)
	case "export-practice":
		return exportPractice(ctx, args)
	case "import-practice":
		return importPractice(ctx, args)
	case "reset-password":
		return resetPassword(ctx, args)
	case "review":
		return review(ctx)
	case "watch-folder":
		return watchFolder(args)
	case "side-camera":
		return sideCamera(ctx, args)
	case "serve":
		return serve(ctx, false)
	case "demo":
		return serve(ctx, true)
	}
	fmt.Fprint(os.Stderr, usage)
	return fmt.Errorf("there is no command %q", command)
}

func setting(name string) (string, error) {
	if v := os.Getenv(name); v != "" {
		return v, nil
	}
	return "", fmt.Errorf("%s is not set; start with make demo or make run", name)
}

// open is the application on the database that is set, for one command.
func open(ctx context.Context) (a *house.House, end func(), err error) {
	url, err := setting("NOTCHBACK_DATABASE_URL")
	if err != nil {
		return nil, nil, err
	}
	s, err := store.Open(ctx, url)
	if err != nil {
		return nil, nil, err
	}
	if a, err = house.New(s); err != nil {
		s.Close()
		return nil, nil, err
	}
	return a, func() { a.Close(); s.Close() }, nil
}

func review(ctx context.Context) error {
	a, end, err := open(ctx)
	if err != nil {
		return err
	}
	defer end()
	start := time.Now()
	n, err := a.ReviewAll(ctx)
	fmt.Printf("%d runners reviewed, %d left to another process, in %s\n", n.Runners, n.Skipped, time.Since(start).Round(time.Millisecond))
	return err
}

// Weeks and kilometres of the stand-in for a watch.
const (
	watchWeeks    = 6
	watchWeeklyKm = 36
)

func watchFolder(args []string) error {
	if len(args) == 0 {
		return errors.New("name the folder to drop run files into")
	}
	weeks := watchWeeks
	if len(args) > 1 && args[1] == "dialects" {
		n, err := devices.DropDialects(args[0], time.Now())
		if err == nil {
			fmt.Printf("%d files in %s, and what they are in truth.csv\n", n, args[0])
		}
		return err
	}
	if len(args) > 1 {
		n, err := strconv.Atoi(args[1])
		if err != nil || n < 1 || n > 60 {
			return fmt.Errorf("%q is not a number of weeks from 1 to 60", args[1])
		}
		weeks = n
	}
	names, err := devices.Drop(args[0], devices.Outings(time.Now(), weeks, watchWeeklyKm, uint64(weeks)))
	if err != nil {
		return err
	}
	fmt.Printf("%d run files in %s\n", len(names), args[0])
	return nil
}

// listen takes the address before anything slow is done, so that a busy port is
// said at once.
func listen() (net.Listener, error) {
	addr := os.Getenv("NOTCHBACK_ADDR")
	if addr == "" { // started without the command line, by a test
		addr = defaultAddr
	}
	l, err := net.Listen("tcp", addr)
	switch {
	case errors.Is(err, syscall.EADDRINUSE):
		return nil, fmt.Errorf("%s is taken by another program; set NOTCHBACK_ADDR to a free one, like 127.0.0.1:8421", addr)
	case err != nil:
		return nil, fmt.Errorf("NOTCHBACK_ADDR %q: %w", addr, err)
	}
	return l, nil
}

// sideCamera renders the demo clips, or one of them, into a folder.
func sideCamera(ctx context.Context, args []string) error {
	if len(args) == 0 {
		return errors.New("name the folder to put the clips into")
	}
	list := sidecam.Demos()
	if len(args) > 1 {
		d, err := sidecam.Find(args[1])
		if err != nil {
			return err
		}
		list = []sidecam.Demo{d}
	}
	for _, d := range list {
		if err := sidecam.Write(ctx, args[0], d); err != nil {
			return err
		}
		fmt.Printf("%s: %s\n", d.ID, d.Name)
	}
	return nil
}

// clipFolder is the folder for clips, where one is named.
func clipFolder() ([]app.Option, error) {
	root := os.Getenv("NOTCHBACK_CLIPS")
	if root == "" {
		return nil, nil
	}
	d, err := blobs.Open(root)
	return []app.Option{app.WithBlobs(d)}, err
}
