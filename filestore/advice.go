package filestore

import (
	"errors"
	"io/fs"
	"net"
	"syscall"

	"github.com/minio/minio-go/v7"
)

// Advice says what to do about an error of a place for files; otherwise is said of what is none that is known.
func Advice(err error, otherwise string) string {
	var away net.Error
	switch {
	case errors.Is(err, syscall.EROFS):
		return "The file system of the folder is read-only; mount it for writing, or name another folder."
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return "There is no room left; make some, or name another folder."
	case errors.Is(err, fs.ErrPermission):
		return "Give the account that this program runs as the right to write in the folder."
	case errors.As(err, &away):
		return "The store does not answer from here: check the endpoint and region of its address in the settings, the network in between, and whether it runs."
	}
	switch minio.ToErrorResponse(err).Code {
	case minio.AccessDenied, "InvalidAccessKeyId", "SignatureDoesNotMatch", "ExpiredToken":
		return "The store refuses the keys: check AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY, and what they may do with the bucket (read, write, delete, list)."
	case minio.NoSuchBucket:
		return "Make the bucket, or correct its name in the settings."
	}
	return otherwise
}
