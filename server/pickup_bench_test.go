package server_test

import (
	"context"
	"net"
	"sync/atomic"
	"testing"

	"github.com/alexedwards/argon2id"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"
	"github.com/valyala/fasthttp"

	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/send"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store/storetest"
)

// BenchmarkPickup says how many builds that have a file already are told so in a second, over the loopback, clients and all on the
// same machine; 2,000 are wanted on two cores. Beside it the same for one that fetches the file.
func BenchmarkPickup(b *testing.B) {
	k := stations.New(storetest.Open(b), filestore.Memory(), standin.World())
	k.Accounts.Cost = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	ctx := context.Background()
	require.NoError(b, k.Example.Load(ctx))
	row, err := k.Base.DB.UserByEmail("keeper@odelwick.example")
	require.NoError(b, err)
	a, err := k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: row.ID, Name: "Keeper"}}, 1)
	require.NoError(b, err)
	require.Equal(b, keep.RoleKeeper, a.Role)
	_, token, err := k.Send.AddRecipient(ctx, a, send.NewRecipient{Name: "Build", Kind: "web"})
	require.NoError(b, err)
	app := server.New(server.Options{Stations: k, Fetches: 1 << 30})
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	go func() { _ = app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	b.Cleanup(func() { _ = app.Shutdown() })
	client := &fasthttp.HostClient{Addr: listener.Addr().String(), MaxConns: 64}
	ask := func(tag string) (int, string) {
		req, res := fasthttp.AcquireRequest(), fasthttp.AcquireResponse()
		defer fasthttp.ReleaseRequest(req)
		defer fasthttp.ReleaseResponse(res)
		req.SetRequestURI("http://" + client.Addr + "/p/" + token + "/core.css")
		req.Header.SetUserAgent("site-build/2")
		if tag != "" {
			req.Header.Set("If-None-Match", tag)
		}
		if err := client.Do(req, res); err != nil {
			return 0, err.Error()
		}
		return res.StatusCode(), string(res.Header.Peek("ETag"))
	}
	status, tag := ask("")
	require.Equal(b, 200, status, tag)
	for _, c := range []struct {
		name, tag string
		want      int
	}{{"unchanged", tag, 304}, {"fetched", "", 200}} {
		b.Run(c.name, func(b *testing.B) {
			var wrong atomic.Int64
			b.SetParallelism(8)
			b.RunParallel(func(pb *testing.PB) {
				for pb.Next() {
					if got, _ := ask(c.tag); got != c.want {
						wrong.Add(1)
					}
				}
			})
			require.Zero(b, wrong.Load())
			b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "answers/s")
		})
	}
}
