package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/jpeg"
	"image/png"
	"io"

	"notchback/app"
)

// Limits of photos (house).
const (
	photoPixels  = 40_000_000
	photoQuality = 92
	photoHead    = 256 << 10 // bytes in which a camera says how it was held

	developQuality = 97 // of what is written only to be read once
)

// HeedingFile reads with a deadline and goes back.
type HeedingFile struct {
	io.Reader
	io.Seeker
}

// Cleaned is a picture decoded and written anew, with its type.
func Cleaned(r io.ReadSeeker) ([]byte, string, error) {
	damaged := func(err error) error {
		if errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled) {
			return err
		}
		return app.Refused("the photo is damaged or cut off; take or copy it again")
	}
	head, err := io.ReadAll(io.LimitReader(r, photoHead))
	if err != nil {
		return nil, "", damaged(err)
	}
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return nil, "", err
	}
	c, format, err := image.DecodeConfig(r)
	if err != nil {
		return nil, "", damaged(err)
	}
	if c.Width < 1 || c.Height < 1 || c.Width*c.Height > photoPixels {
		return nil, "", app.Refused(fmt.Sprintf("%d × %d pixels are too many; make the photo smaller, 40 megapixels at most", c.Width, c.Height))
	}
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return nil, "", err
	}
	img, _, err := image.Decode(r)
	if err != nil {
		return nil, "", damaged(err)
	}
	if format == "jpeg" {
		img = upright(img, orientation(head))
	}
	var out bytes.Buffer
	if format == "png" {
		err = png.Encode(&out, img)
		return out.Bytes(), "image/png", err
	}
	err = jpeg.Encode(&out, img, &jpeg.Options{Quality: photoQuality})
	return out.Bytes(), "image/jpeg", err
}

// orientation is how a camera was held, 1 to 8 as Exif has it; 1 where it is not said.
func orientation(head []byte) int {
	for i := 2; i+4 <= len(head) && head[i] == 0xff; {
		n := int(binary.BigEndian.Uint16(head[i+2:]))
		if head[i+1] == 0xda || n < 2 { // the picture begins
			return 1
		}
		end := min(i+2+n, len(head))
		if part := head[i+4 : end]; head[i+1] == 0xe1 && bytes.HasPrefix(part, []byte("Exif\x00\x00")) {
			return exifOrientation(part[6:])
		}
		i += 2 + n
	}
	return 1
}

func exifOrientation(b []byte) int {
	var order binary.ByteOrder = binary.LittleEndian
	if bytes.HasPrefix(b, []byte("MM")) {
		order = binary.BigEndian
	}
	if len(b) < 8 {
		return 1
	}
	at := int(order.Uint32(b[4:]))
	if at < 8 || at+2 > len(b) {
		return 1
	}
	const orientationTag, entry = 0x0112, 12
	for n, p := int(order.Uint16(b[at:])), at+2; n > 0 && p+entry <= len(b); n, p = n-1, p+entry {
		if order.Uint16(b[p:]) == orientationTag {
			if v := int(order.Uint16(b[p+8:])); v >= 1 && v <= 8 {
				return v
			}
			return 1
		}
	}
	return 1
}

// upright turns a picture as it was seen.
func upright(img image.Image, o int) image.Image {
	if o == 1 {
		return img
	}
	b := img.Bounds()
	src := image.NewRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	draw.Draw(src, src.Bounds(), img, b.Min, draw.Src)
	w, h := b.Dx(), b.Dy()
	if o >= 5 {
		w, h = h, w
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			sx, sy := x, y
			switch o {
			case 2:
				sx = w - 1 - x
			case 3:
				sx, sy = w-1-x, h-1-y
			case 4:
				sy = h - 1 - y
			case 5:
				sx, sy = y, x
			case 6:
				sx, sy = y, w-1-x
			case 7:
				sx, sy = h-1-y, w-1-x
			case 8:
				sx, sy = h-1-y, x
			}
			copy(out.Pix[out.PixOffset(x, y):][:4], src.Pix[src.PixOffset(sx, sy):][:4])
		}
	}
	return out
}
