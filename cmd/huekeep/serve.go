package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/spf13/cobra"

	"huekeep/demo"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/dumps"
	"huekeep/keep/instances"
	"huekeep/keep/stations"
	"huekeep/mail"
	"huekeep/reading"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store/local"
	"huekeep/ui"
)

func serverCommands() []*cobra.Command {
	serve := &cobra.Command{Use: "serve", Short: "Serve the web application", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serveApp(cmd.Context(), false, false) }}
	var fresh bool
	show := &cobra.Command{Use: "demo", Short: "Serve the web application with the demo house, on this machine only", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return serveApp(cmd.Context(), true, fresh) }}
	show.Flags().BoolVar(&fresh, "fresh", false, "forget what was done in the demo and start over")
	apart := &cobra.Command{Use: reading.WorkCommand, Short: "Read foreign files for a server, which starts it", Hidden: true,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return reading.Process(context.WithoutCancel(cmd.Context()), os.Stdin, os.Stdout)
		}}
	return []*cobra.Command{serve, show, apart, accountCommand(), trailCommand(), keysCommand(), dumpCommand(), loadCommand(),
		doctorCommand(), demoFilesCommand(), exportCommand(), importCommand()}
}

// stored is an open database with what has to be closed behind it.
type stored struct {
	*stations.Stations
	close func() error
}

// openStore opens the database and the files of the settings, for a server; beside says that it is for a command, which may work while one
// runs.
func openStore(ctx context.Context, database string, fresh, beside bool) (stored, error) {
	p, err := openPlace(ctx, database, fresh, beside)
	if err != nil {
		return stored{}, err
	}
	s, err := openStation(ctx, p)
	if err != nil {
		return stored{}, errors.Join(err, p.close())
	}
	return s, nil
}

// openStation opens the rules on a place, which is closed with them.
func openStation(ctx context.Context, p place) (stored, error) {
	db, err := openDatabase(ctx, p)
	if err != nil {
		return stored{}, err
	}
	s := stored{stations.New(db, p.files, standin.World()), func() error { return errors.Join(db.Close(), p.close()) }}
	s.Dumps.Set.From = p.place()
	if s.Base.Keys, err = openKeys(); err != nil {
		return stored{}, errors.Join(fmt.Errorf("the keys of this server (HUEKEEP_KEYS, %s): %w", keysPath(), err), db.Close())
	}
	if _, err := s.Hooks.EncryptSecrets(ctx); errors.Is(err, keep.ErrNoKey) {
		slog.Error("secrets of webhooks cannot be read", "error", err, "do", "put the file of keys back that was used before ("+keysPath()+
			"), or make the webhooks anew")
	} else if err != nil {
		return stored{}, errors.Join(err, db.Close())
	}
	if _, err := s.Accounts.EncryptSecrets(ctx); errors.Is(err, keep.ErrNoKey) { // those of before, and with a key of before
		slog.Error("secrets of second factors cannot be read", "error", err, "do", "put the file of keys back that was used before ("+
			keysPath()+"), or: huekeep account EMAIL --reset")
	} else if err != nil {
		return stored{}, errors.Join(err, db.Close())
	}
	return s, nil
}

// place is a database and its files.
type place struct {
	dsn   string
	files filestore.Store
	close func() error
}

// place is what a dump is made of.
func (p place) place() dumps.Place { return dumps.Place{DSN: p.dsn, Files: p.files} }

// openPlace opens the database of HUEKEEP_DATABASE, or a private MariaDB in the data folder, which is started again when it ends, and the
// files. fresh begins with neither anything in it. beside says that a server may be running on the private one.
func openPlace(ctx context.Context, database string, fresh, beside bool) (p place, err error) {
	data, err := filepath.Abs(setting("DATA", ".huekeep"))
	if err != nil {
		return p, err
	}
	stop := func() error { return nil }
	if p.dsn = os.Getenv("HUEKEEP_DATABASE"); p.dsn == "" {
		s, err := local.Start(ctx, filepath.Join(data, "mariadb"))
		switch {
		case errors.Is(err, local.ErrBusy) && beside:
			if s, err = local.Running(ctx, filepath.Join(data, "mariadb")); err != nil {
				return p, err
			}
		case err != nil:
			return p, err
		default:
			guarded, done := context.WithCancel(context.WithoutCancel(ctx))
			go s.Guard(guarded)
			stop = func() error { done(); return s.Stop() }
			if err := s.Create(ctx, database, fresh); err != nil {
				return p, errors.Join(err, stop())
			}
		}
		p.dsn = s.DSN(database)
	} else if fresh {
		return p, errors.New("HUEKEEP_DATABASE is set; only the private database is ever started over")
	}
	folder := filepath.Join(data, "files", database)
	if fresh && setting("FILES", "") == "" {
		if err := os.RemoveAll(folder); err != nil {
			return p, errors.Join(err, stop())
		}
	}
	if p.files, err = openFiles(folder); err != nil {
		return p, errors.Join(err, stop())
	}
	p.close = stop
	return p, nil
}

// openFiles opens the place for files of HUEKEEP_FILES, or the folder.
func openFiles(folder string) (filestore.Store, error) {
	files := setting("FILES", "")
	if files == "" {
		return filestore.Folder(folder)
	}
	s, err := filestore.At(files)
	if err != nil {
		return nil, fmt.Errorf("HUEKEEP_FILES: %w", err)
	}
	return s, nil
}

func serveApp(ctx context.Context, withDemo, fresh bool) (err error) {
	keepWithin(serverMemory())
	set, err := readSettings()
	if err != nil {
		return err
	}
	if set.log == "json" {
		slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	}
	for _, name := range unknownSettings() {
		slog.Warn("there is no such setting", "name", name)
	}
	database := "huekeep"
	if withDemo {
		database = "huekeep_demo"
	}
	s, err := openStore(ctx, database, fresh, false)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.close()) }()
	s.Base.Room = set.room
	s.Accounts.Life, s.Accounts.Idle = set.life, set.idle
	s.Hooks.Allowed = set.hooks
	s.nightly(set.dumps)
	s.Instances.Version = builtFrom()
	s.Base.Apart.Limit, s.Base.Apart.Memory = set.file, readerMemory()
	if s.Base.Apart.Program, err = os.Executable(); err != nil {
		return err
	}
	defer s.Base.Apart.Close()
	defer s.Accounts.Settle()
	listener, err := listen(withDemo)
	if err != nil {
		return err
	}
	s.Send.Address = strings.TrimSuffix(setting("URL", "http://"+listener.Addr().String()), "/")
	options := server.Options{Stations: s.Stations, Interface: ui.Built(), Demo: withDemo, Secure: set.secure, Proxies: set.proxies,
		AccessLog: set.access, Provider: set.provider, Examine: examine}
	switch smtp := setting("SMTP", ""); {
	case smtp != "":
		if s.Send.Mailer, err = mail.New(smtp); err != nil {
			return fmt.Errorf("HUEKEEP_SMTP: %w", err)
		}
		if setting("URL", "") == "" {
			return errors.New("HUEKEEP_URL is missing: mails hold links, which need the address where people reach the program")
		}
	case withDemo:
		post, err := openOutbox(s.Stations, database, fresh)
		if err != nil {
			return err
		}
		defer func() { _ = post.Close() }()
		options.Outbox = post
	}
	if withDemo {
		stop, err := s.loadDemo(ctx)
		if err != nil {
			return err
		}
		defer stop()
	}
	defer s.work(ctx, set.again)()
	if set.metrics != "" {
		options.Metrics = http.NewServeMux()
		stop, err := serveMetrics(set.metrics, options.Metrics)
		if err != nil {
			return fmt.Errorf("HUEKEEP_METRICS: %w", err)
		}
		defer stop()
	}
	app := server.New(options)
	sayWhere(listener, set.log == "json", withDemo)
	if !withDemo {
		if err := s.welcome(ctx); err != nil {
			return err
		}
	}
	return answer(ctx, app, listener)
}

// answer answers requests until the context ends; what is being answered then has ten seconds.
func answer(ctx context.Context, app *fiber.App, listener net.Listener) error {
	done := make(chan error, 1)
	go func() { done <- app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
		slog.Info("stopping")
		return app.ShutdownWithTimeout(10 * time.Second)
	}
}

// loadDemo makes the demo house, where there is none, with what its webhooks call; stop ends that.
func (s stored) loadDemo(ctx context.Context) (stop func(), err error) {
	receiver, err := openReceiver(s.Stations)
	if err != nil {
		return nil, err
	}
	stop = func() { _ = receiver.Close() }
	defer func() {
		if err != nil {
			stop()
		}
	}()
	if err = s.Example.Load(ctx); err != nil {
		return nil, err
	}
	if err = s.Hooks.LoadDemo(ctx, demo.Ferries.Name, receiver.Address(), receiver.Trust); err != nil {
		return nil, fmt.Errorf("demo webhook: %w", err)
	}
	if err = s.Audits.LoadDemo(ctx); err != nil {
		return nil, fmt.Errorf("demo projects: %w", err)
	}
	return stop, nil
}

// sayWhere says where the program is, and how one signs in to the demo.
func sayWhere(listener net.Listener, asJSON, withDemo bool) {
	if asJSON {
		slog.Info("Hue Keep is at", "address", "http://"+listener.Addr().String())
	} else {
		fmt.Printf("Hue Keep is at http://%s\n", listener.Addr())
	}
	if withDemo {
		fmt.Printf("Sign in as %s, %s or %s; the password of each is %s\n", demo.Accounts[0].Email, demo.Accounts[1].Email,
			demo.Accounts[2].Email, demo.Password)
	}
}

// welcome says how the first account is made where there is none, and what does not work for want of a setting.
func (s stored) welcome(ctx context.Context) error {
	code, err := s.Accounts.FirstCode(ctx)
	if err != nil {
		return err
	}
	if code != "" {
		slog.Info("Nobody has an account yet: the page makes the first one with this code", "code", code, "page", s.Send.Address)
	}
	var missing []string
	if !s.Dumps.On() {
		missing = append(missing, "HUEKEEP_DUMPS (nothing is dumped at night: what this machine loses is lost)")
	}
	if setting("URL", "") == "" {
		missing = append(missing, "HUEKEEP_URL (links lead to "+s.Send.Address+", which nobody reaches from elsewhere)")
	}
	if s.Send.Mailer == nil {
		missing = append(missing, "HUEKEEP_SMTP (nothing is mailed: invitations are handed on as links, and a forgotten password is set on the command line)")
	}
	if os.Getenv("HUEKEEP_DATABASE") == "" {
		missing = append(missing, "HUEKEEP_DATABASE (a MariaDB of its own is used, in "+setting("DATA", ".huekeep")+")")
	}
	if len(missing) > 0 {
		slog.Info("It works without, but is not set: " + strings.Join(missing, ", "))
	}
	return nil
}

// serveMetrics answers at an address of its own, which is not for everybody.
func serveMetrics(address string, metrics *http.ServeMux) (stop func(), err error) {
	listener, err := net.Listen("tcp", address)
	if err != nil {
		return nil, err
	}
	s := &http.Server{Handler: metrics, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = s.Serve(listener) }() // it ends when it is closed
	slog.Info("metrics", "address", "http://"+listener.Addr().String()+"/metrics")
	return func() { _ = s.Close() }, nil
}

// openOutbox starts the stand-in mail server of the demo, which keeps what is mailed in the data folder.
func openOutbox(s *stations.Stations, database string, fresh bool) (*standin.MailServer, error) {
	folder := filepath.Join(setting("DATA", ".huekeep"), "outbox", database)
	if fresh {
		if err := os.RemoveAll(folder); err != nil {
			return nil, err
		}
	}
	post, err := standin.StartMail(folder)
	if err != nil {
		return nil, err
	}
	s.Send.Mailer, err = mail.New(post.Address("colors@odelwick.example"))
	return post, err
}

// openReceiver starts the stand-in program of the demo that is told of what happens, which is on this machine, so that messages may go
// there.
func openReceiver(s *stations.Stations) (*standin.HookReceiver, error) {
	receiver, err := standin.StartHooks()
	if err == nil {
		s.Hooks.Allowed = append(s.Hooks.Allowed, netip.MustParsePrefix("127.0.0.1/32"))
		fmt.Printf("A stand-in program takes messages of webhooks at %s\n", receiver.Address())
	}
	return receiver, err
}

// workers is how many jobs an instance works on at once; half of them may be of one house.
const workers = 4

// work takes up jobs until the context ends, and puts in order what an older version left. The function that it returns waits
// until nobody works any more.
func (s stored) work(ctx context.Context, again time.Duration) func() {
	ctx, stop := context.WithCancel(ctx)
	s.Jobs.Most = workers / 2
	s.Jobs.Tidy(ctx, time.Hour)
	go s.sealTrails(ctx)
	var all sync.WaitGroup
	all.Go(func() { s.Instances.Serve(ctx, instances.Every) })
	all.Go(func() { s.Jobs.Serve(ctx, workers) })
	all.Go(func() { s.Audits.ServeAgain(ctx, again) })
	all.Go(func() { s.Dumps.Serve(ctx, time.Minute) })
	all.Go(func() {
		if err := s.Audits.MoveOldReports(ctx); err != nil && ctx.Err() == nil {
			slog.Error("reports of an older version could not be moved", "error", err)
		}
	})
	return func() {
		stop()
		all.Wait()
	}
}

// nightly sets what is dumped at night to where. Those who run the server hear of a night without a dump.
func (s stored) nightly(set dumps.Settings) {
	set.From = s.Dumps.Set.From
	s.Dumps.Use(set)
	s.Dumps.Tell = func(ctx context.Context, problem string) {
		people, err := s.Base.DB.With(ctx).Running()
		if err != nil {
			slog.Error("nobody could be told that there is no dump of this night", "error", err)
		}
		for _, u := range people {
			s.Accounts.Letter(ctx, u.Email, "There is no dump of this night",
				"The nightly dump of this server failed, and is tried again every hour: "+problem, "/server")
		}
	}
}

// sealTrails seals the trails now and then until the context ends.
func (s stored) sealTrails(ctx context.Context) {
	for {
		if err := s.Trail.Seal(ctx, s.Base.Now()); err != nil && ctx.Err() == nil {
			slog.Error("the trail could not be sealed", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Minute):
		}
	}
}

// listen takes the address of the settings. The demo moves to a free port if the usual one is taken.
func listen(withDemo bool) (net.Listener, error) {
	address := setting("ADDRESS", "127.0.0.1:7180")
	l, err := net.Listen("tcp", address)
	if err != nil && withDemo && os.Getenv("HUEKEEP_ADDRESS") == "" {
		return net.Listen("tcp", "127.0.0.1:0")
	}
	return l, err
}

func accountCommand() *cobra.Command {
	var fullName, house, role string
	var reset, runs bool
	c := &cobra.Command{
		Use:     "account EMAIL",
		Short:   "Add an account, and its house if there is none of that name; the password is read from standard input",
		Example: "  huekeep account ana@example.org --name 'Ana' --house 'Odelwick Ferries' --role keeper\n  huekeep account ana@example.org --reset\n  huekeep account ana@example.org --runs",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			if cmd.Flags().Changed("runs") {
				return setRuns(cmd, args[0], runs)
			}
			fmt.Fprint(cmd.ErrOrStderr(), "Password: ")
			password, err := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
			if err != nil && password == "" {
				return errors.New("no password was given")
			}
			s, err := openStore(cmd.Context(), "huekeep", false, true)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, s.close()) }()
			password = strings.TrimRight(password, "\r\n")
			if reset {
				return s.Accounts.Reset(cmd.Context(), args[0], password)
			}
			return s.People.AddMember(cmd.Context(), args[0], fullName, password, house, keep.Role(role))
		},
	}
	c.Flags().StringVar(&fullName, "name", "", "how the person is named in histories")
	c.Flags().StringVar(&house, "house", "", "house that the person belongs to")
	c.Flags().BoolVar(&reset, "reset", false,
		"set a new password for an account that there is; its second factor, sessions and access tokens end")
	c.Flags().BoolVar(&runs, "runs", false, "the account runs the server and sees the page of it; --runs=false takes that back")
	c.Flags().StringVar(&role, "role", "keeper", "keeper, contributor or reader")
	return c
}

// setRuns says of an account that there is whether it runs the server; no password is asked for.
func setRuns(cmd *cobra.Command, email string, runs bool) (err error) {
	s, err := openStore(cmd.Context(), "huekeep", false, true)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.close()) }()
	return s.Accounts.SetRuns(cmd.Context(), email, runs)
}

func demoFilesCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "demo-files FOLDER",
		Short: "Write the demo house's project files and pictures, to try auditing and gathering with",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := os.MkdirAll(args[0], 0o755); err != nil {
				return err
			}
			write := func(name string, data []byte) error {
				path := filepath.Join(args[0], name)
				fmt.Fprintln(cmd.OutOrStdout(), path)
				return os.WriteFile(path, data, 0o644)
			}
			for _, f := range demo.Files() {
				if err := write(f.Name, f.Data); err != nil {
					return err
				}
			}
			for _, p := range append(demo.Pictures(), demo.Photo()) {
				if err := write(p.Name, p.Data); err != nil {
					return err
				}
			}
			return nil
		},
	}
}
