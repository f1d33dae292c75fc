package filestore

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"net/url"
	"os"
	"strconv"

	"github.com/minio/minio-go/v7"
	"github.com/minio/minio-go/v7/pkg/credentials"
)

type objects struct {
	client *minio.Client
	bucket string
}

// bucket opens a bucket. Keys come from AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY, the shared file of credentials, or the machine's role.
func bucket(name string, options url.Values) (Store, error) {
	if name == "" {
		return nil, fmt.Errorf("the address names no bucket: write s3://bucket?region=…")
	}
	region := cmp.Or(options.Get("region"), os.Getenv("AWS_REGION"), os.Getenv("AWS_DEFAULT_REGION"))
	endpoint := options.Get("endpoint")
	if endpoint == "" {
		if region == "" {
			return nil, fmt.Errorf("s3://%s needs a region or an endpoint: s3://%s?region=eu-west-1", name, name)
		}
		endpoint = "https://s3." + region + ".amazonaws.com"
	}
	at, err := url.Parse(endpoint)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, fmt.Errorf("the endpoint %q is no address: write https://host", endpoint)
	}
	lookup := minio.BucketLookupAuto
	if way := options.Get("use_path_style"); way != "" {
		path, err := strconv.ParseBool(way)
		if err != nil {
			return nil, fmt.Errorf("use_path_style is true or false, not %q", way)
		}
		if path {
			lookup = minio.BucketLookupPath
		}
	}
	client, err := minio.New(at.Host, &minio.Options{
		Creds: credentials.NewChainCredentials([]credentials.Provider{&credentials.EnvAWS{}, &credentials.FileAWSCredentials{},
			&credentials.IAM{}}),
		Secure: at.Scheme == "https", Region: region, BucketLookup: lookup,
		MaxRetries: 3, // somebody waits
	})
	if err != nil {
		return nil, err
	}
	return objects{client, name}, nil
}

// told makes ErrNotFound of what S3 says of a file that is not there.
func told(key string, err error) error {
	if minio.ToErrorResponse(err).Code == minio.NoSuchKey {
		return fmt.Errorf("%s: %w", key, ErrNotFound)
	}
	return err
}

// partSize is that of the parts of a file that is longer than anybody knows before: 10,000 of them are 320 GB.
const partSize = 32 << 20

func (o objects) Write(ctx context.Context, key string, r io.Reader, size int64) error {
	if err := check(key); err != nil {
		return err
	}
	// The signed MD5 is the proof of what was sent; a signature part by part is not taken of empty files everywhere.
	how := minio.PutObjectOptions{DisableMultipart: true, SendContentMd5: true, DisableContentSha256: true}
	if size == Unsized { // part by part: one is in memory at a time, and there are 10,000 at most
		how.DisableMultipart, how.PartSize = false, partSize
	}
	_, err := o.client.PutObject(ctx, o.bucket, key, r, size, how)
	return err
}

func (o objects) Open(ctx context.Context, key string) (io.ReadCloser, int64, error) {
	r, err := o.client.GetObject(ctx, o.bucket, key, minio.GetObjectOptions{})
	if err != nil {
		return nil, 0, told(key, err)
	}
	about, err := r.Stat()
	if err != nil {
		_ = r.Close()
		return nil, 0, told(key, err)
	}
	return r, about.Size, nil
}

// Remove succeeds where there is no such file: S3 does not tell.
func (o objects) Remove(ctx context.Context, key string) error {
	return told(key, o.client.RemoveObject(ctx, o.bucket, key, minio.RemoveObjectOptions{}))
}

func (o objects) Each(ctx context.Context, f func(Entry) error) error {
	ctx, done := context.WithCancel(ctx) // ends the listing when f does
	defer done()
	for e := range o.client.ListObjects(ctx, o.bucket, minio.ListObjectsOptions{Recursive: true}) {
		if e.Err != nil {
			return e.Err
		}
		if err := f(Entry{e.Key, e.Size, e.LastModified}); err != nil {
			return err
		}
	}
	return nil
}

func (o objects) Ready(ctx context.Context) error {
	there, err := o.client.BucketExists(ctx, o.bucket)
	if err == nil && !there {
		err = fmt.Errorf("there is no bucket %q", o.bucket)
	}
	return err
}
