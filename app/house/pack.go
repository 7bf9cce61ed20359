package house

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/clips"
	"notchback/app/input"
	"notchback/app/media"
	"notchback/app/strict"
	"notchback/app/view"
	"notchback/core/clip"
	"notchback/core/screening"
	"notchback/formats"
)

// A pack is a runner's bundle with what does not stand in tables: clips with their marks,
// the pictures readings were taken from, and every table as CSV for people. Its manifest
// comes last and names every file with its digest: without it a pack broke off.
const (
	packFormat   = "notchback-pack"
	packVersion  = 1
	manifestName = "manifest.json"
	runnerName   = "runner.json"
	// PackMost is the largest pack read, in bytes.
	PackMost     = 800 << 20
	mostPacked   = 5000 // files
	mostManifest = 4 << 20
)

// Manifest names what a pack holds.
type Manifest struct {
	Format  string       `json:"format"`
	Version int          `json:"version"`
	Files   []PackedFile `json:"files" nullable:"false" maxItems:"5000"`
}

// PackedFile is a file of a pack.
type PackedFile struct {
	Name   string `json:"name" maxLength:"200"`
	Bytes  int64  `json:"bytes" minimum:"0"`
	Sha256 string `json:"sha256" maxLength:"64"`
}

// packedClip is a clip of a pack; its content lies beside it.
type packedClip struct {
	Screening string     `json:"screening" maxLength:"40"`
	Name      string     `json:"name" maxLength:"200"`
	Kind      string     `json:"kind" enum:"video,photo,markers"`
	Marks     clip.Marks `json:"marks"`
	Content   string     `json:"content" maxLength:"200"`
}

// packedOrigin is where a reading comes from; its picture lies beside it.
type packedOrigin struct {
	clips.TrialOrigin
	Screening string `json:"screening" maxLength:"40"`
	File      string `json:"file,omitempty" maxLength:"200"`
}

// packer writes files into a zip and notes their digests.
type packer struct {
	z *zip.Writer
	m Manifest
}

func (p *packer) put(name string, r io.Reader) error {
	w, err := p.z.Create(name)
	if err != nil {
		return err
	}
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(w, h), r)
	p.m.Files = append(p.m.Files, PackedFile{name, n, hex.EncodeToString(h.Sum(nil))})
	return err
}

func (p *packer) json(name string, v any) error {
	raw, err := json.MarshalIndent(v, "", " ")
	if err != nil {
		return err
	}
	return p.put(name, bytes.NewReader(raw))
}

// Pack gathers everything about a runner and returns what writes it.
func (h *House) Pack(ctx context.Context, act app.Actor, runner string) (name string, write func(io.Writer) error, err error) {
	bundle, names, err := h.ExportNamed(ctx, act, runner)
	if err != nil {
		return "", nil, err
	}
	r, err := h.Runner(ctx, act, runner)
	if err != nil {
		return "", nil, err
	}
	list, err := h.RunnerClips(ctx, act, runner)
	if err != nil {
		return "", nil, err
	}
	return app.FileName(r.Name, "everything", "zip"), func(w io.Writer) error {
		p := &packer{zip.NewWriter(w), Manifest{Format: packFormat, Version: packVersion, Files: []PackedFile{}}}
		raw, err := json.Marshal(bundle)
		if err != nil {
			return err
		}
		if err := p.put(runnerName, bytes.NewReader(raw)); err != nil {
			return err
		}
		for _, t := range slices.Sorted(maps.Keys(bundle.Tables)) {
			var b bytes.Buffer
			if err := formats.AnyCSV(&b, bundle.Tables[t]); err != nil {
				return err
			}
			if err := p.put("tables/"+t+".csv", &b); err != nil {
				return err
			}
		}
		if err := h.packRights(ctx, act, p, runner); err != nil {
			return err
		}
		for i, c := range list {
			if err := h.packClip(ctx, act, p, names, i+1, c); err != nil {
				return err
			}
		}
		if err := h.packOrigins(ctx, act, p, names, bundle.Tables["screenings"]); err != nil {
			return err
		}
		m, err := json.MarshalIndent(p.m, "", " ")
		if err != nil {
			return err
		}
		if err := p.put(manifestName, bytes.NewReader(m)); err != nil {
			return err
		}
		return p.z.Close()
	}, nil
}

// packRights puts in what a person may ask for beside their record: what they agreed to,
// what was written to and fro, who looked, and the plan to read. None of it is read back.
func (h *House) packRights(ctx context.Context, act app.Actor, p *packer, runner string) error {
	consents, err := h.Consents(ctx, act, runner)
	if err != nil {
		return err
	}
	if err := p.json("rights/consents.json", consents); err != nil {
		return err
	}
	heard, err := h.Heard(ctx, act, runner)
	if err != nil {
		return err
	}
	if err := p.json("rights/phone.json", heard); err != nil {
		return err
	}
	if app.Owns.May(act.User.Role) {
		lines, err := h.AccessLines(ctx, act, account.Looked{Runner: runner})
		if err != nil {
			return err
		}
		if err := p.json("rights/who-looked.json", lines); err != nil {
			return err
		}
	}
	b, err := h.CurrentBlock(ctx, act, runner)
	if err != nil || b == nil {
		return err
	}
	f, err := h.PlanFile(ctx, act, b.ID, "pdf")
	if err != nil {
		return err
	}
	return p.put("rights/plan.pdf", bytes.NewReader(f.Body))
}

func (h *House) packClip(ctx context.Context, act app.Actor, p *packer, names map[string]string, n int, c clips.ClipView) error {
	if !c.Ready {
		return nil // nothing is there yet
	}
	f, kind, err := h.ClipFile(ctx, act, c.ID)
	if errors.Is(err, app.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	ends := map[string]string{"video/webm": ".webm", "video/mp4": ".mp4", "image/jpeg": ".jpg", "image/png": ".png"}[kind]
	content := fmt.Sprintf("clips/%d%s", n, ends)
	if err := p.put(content, f); err != nil {
		return err
	}
	return p.json(fmt.Sprintf("clips/%d.json", n), packedClip{Screening: names[c.ScreeningID], Name: c.Name, Kind: c.Kind, Marks: c.Marks, Content: content})
}

func (h *House) packOrigins(ctx context.Context, act app.Actor, p *packer, names map[string]string, screenings []map[string]any) error {
	ids := map[string]string{}
	for id, ref := range names {
		ids[ref] = id
	}
	n := 0
	for _, s := range screenings {
		ref, _ := s["id"].(string)
		list, err := h.TrialOrigins(ctx, act, ids[ref])
		if err != nil {
			return err
		}
		for _, o := range list {
			n++
			x := packedOrigin{TrialOrigin: o, Screening: ref}
			if o.Picture {
				png, err := h.TrialPicture(ctx, act, ids[ref], o.Test, o.Side, o.Slot)
				if err != nil && !errors.Is(err, app.ErrNotFound) {
					return err
				}
				if len(png) > 0 {
					x.File = fmt.Sprintf("pictures/%d.png", n)
					if err := p.put(x.File, bytes.NewReader(png)); err != nil {
						return err
					}
				}
			}
			if err := p.json(fmt.Sprintf("pictures/%d.json", n), x); err != nil {
				return err
			}
		}
	}
	return nil
}

// Unpacked says what came out of a pack.
type Unpacked struct {
	Runner   view.Runner `json:"runner"`
	Clips    int         `json:"clips"`
	Pictures int         `json:"pictures"`
	Left     []string    `json:"left" nullable:"false" doc:"What could not be brought in, and why"`
}

// pack is one that was sent: a file of this machine's, whose digests hold.
type pack struct {
	files map[string]*zip.File
}

// Unpack makes a runner from a pack: the record all of it or nothing, then clip by clip
// and picture by picture; each is looked at as one that is uploaded.
func (h *House) Unpack(ctx context.Context, act app.Actor, r io.Reader, again bool) (Unpacked, error) {
	out := Unpacked{Left: []string{}}
	f, err := os.CreateTemp("", "pack-*")
	if err != nil {
		return out, err
	}
	defer func() {
		_ = f.Close()
		_ = os.Remove(f.Name())
	}()
	size, err := io.Copy(f, r)
	var big *app.TooLarge
	if errors.As(err, &big) {
		return out, app.Wrong("", fmt.Sprintf("a pack has at most %d MB", PackMost>>20))
	}
	if err != nil {
		return out, err
	}
	p, err := openPack(ctx, f, size)
	if err != nil {
		return out, err
	}
	raw, err := p.read(runnerName, input.BundleMost)
	if err != nil {
		return out, err
	}
	made, ids, err := h.ImportNamed(ctx, act, bytes.NewReader(raw), again)
	if err != nil {
		return out, err
	}
	out.Runner = made
	for _, name := range slices.Sorted(maps.Keys(p.files)) {
		if path.Ext(name) != ".json" || ctx.Err() != nil {
			continue
		}
		var err error
		switch path.Dir(name) {
		case "clips":
			if err = h.bringClip(ctx, act, p, ids, name); err == nil {
				out.Clips++
			}
		case "pictures":
			if err = h.bringOrigin(ctx, act, p, ids, name); err == nil {
				out.Pictures++
			}
		}
		if err != nil {
			var bad app.Invalid
			var refused app.Refused
			if !errors.As(err, &bad) && !errors.As(err, &refused) {
				h.Log.Warn("unpack", "file", name, "err", err)
				err = errors.New("it could not be stored")
			}
			out.Left = append(out.Left, name+": "+err.Error())
		}
	}
	return out, nil
}

func openPack(ctx context.Context, f io.ReaderAt, size int64) (pack, error) {
	wrong := func(format string, args ...any) (pack, error) {
		return pack{}, app.Wrong("", fmt.Sprintf(format, args...)+". Nothing was changed.")
	}
	z, err := zip.NewReader(f, size)
	if err != nil {
		return wrong("This is no pack of a runner, or it breaks off")
	}
	if len(z.File) > mostPacked {
		return wrong("There are more than %d files in it", mostPacked)
	}
	p := pack{map[string]*zip.File{}}
	for _, x := range z.File {
		if p.files[x.Name] != nil {
			return wrong("%q is in it twice", x.Name)
		}
		p.files[x.Name] = x
	}
	if p.files[manifestName] == nil || p.files[runnerName] == nil {
		return wrong("This is no pack of a runner, or it breaks off")
	}
	raw, err := p.read(manifestName, mostManifest)
	if err != nil {
		return pack{}, err
	}
	m, err := strict.Read[Manifest](raw)
	if err != nil || m.Format != packFormat {
		return wrong("Its manifest can't be read")
	}
	if m.Version != packVersion {
		return wrong("It is of version %d and this program reads %d; bring the program up to date", m.Version, packVersion)
	}
	delete(p.files, manifestName)
	if len(m.Files) != len(p.files) {
		return wrong("It holds %d files and names %d", len(p.files), len(m.Files))
	}
	for _, x := range m.Files {
		if err := ctx.Err(); err != nil {
			return pack{}, err
		}
		in := p.files[x.Name]
		if in == nil {
			return wrong("%q is missing", x.Name)
		}
		if sum, n, err := digestOf(in, x.Bytes); err != nil || n != x.Bytes || sum != x.Sha256 {
			return wrong("%q is damaged: its digest is another", x.Name)
		}
	}
	return p, nil
}

func digestOf(f *zip.File, most int64) (string, int64, error) {
	r, err := f.Open()
	if err != nil {
		return "", 0, err
	}
	defer func() { _ = r.Close() }()
	h := sha256.New()
	n, err := io.Copy(h, io.LimitReader(r, most+1))
	return hex.EncodeToString(h.Sum(nil)), n, err
}

// read returns a file of a pack, up to a size.
func (p pack) read(name string, most int64) ([]byte, error) {
	f := p.files[name]
	if f == nil {
		return nil, app.Wrong("", fmt.Sprintf("%q is missing", name))
	}
	r, err := f.Open()
	if err != nil {
		return nil, app.Wrong("", fmt.Sprintf("%q is damaged", name))
	}
	defer func() { _ = r.Close() }()
	b, err := io.ReadAll(io.LimitReader(r, most+1))
	if err != nil {
		return nil, app.Wrong("", fmt.Sprintf("%q is damaged", name))
	}
	if int64(len(b)) > most {
		return nil, app.Wrong("", fmt.Sprintf("%q has more than %d MB", name, most>>20))
	}
	return b, nil
}

func packedJSON[T any](p pack, name string) (T, error) {
	raw, err := p.read(name, mostManifest)
	if err != nil {
		var none T
		return none, err
	}
	return strict.Read[T](raw)
}

func (h *House) bringClip(ctx context.Context, act app.Actor, p pack, ids map[string]string, name string) error {
	c, err := packedJSON[packedClip](p, name)
	if err != nil {
		return err
	}
	f := p.files[c.Content]
	if f == nil || !strings.HasPrefix(c.Content, "clips/") || ids[c.Screening] == "" {
		return app.Wrong("", "its file or its screening is not in the pack")
	}
	made, err := h.AddClip(ctx, act, ids[c.Screening], clips.ClipInput{Name: c.Name, Size: int64(f.UncompressedSize64)})
	if err != nil {
		return err
	}
	drop := func(err error) error { return errors.Join(err, h.DeleteClip(ctx, act, made.ID)) }
	r, err := f.Open()
	if err != nil {
		return drop(app.Wrong("", "it is damaged"))
	}
	defer func() { _ = r.Close() }()
	for at := int64(0); at < int64(f.UncompressedSize64); {
		n, err := h.AppendClip(ctx, act, made.ID, at, io.LimitReader(r, media.ClipPart))
		if err != nil {
			return drop(err)
		}
		if n <= at {
			return drop(app.Wrong("", "it breaks off"))
		}
		at = n
	}
	done, err := h.FinishClip(ctx, act, made.ID)
	if err != nil {
		return err // what is no clip was dropped with it
	}
	if !done.Ready {
		return app.Refused("it is turned into a shape that browsers show; its marks were left out")
	}
	_, err = h.PutClipMarks(ctx, act, made.ID, done.Rev, c.Marks)
	return err
}

func (h *House) bringOrigin(ctx context.Context, act app.Actor, p pack, ids map[string]string, name string) error {
	o, err := packedJSON[packedOrigin](p, name)
	if err != nil {
		return err
	}
	if ids[o.Screening] == "" {
		return app.Wrong("", "its screening is not in the pack")
	}
	if _, ok := screening.Find(o.Test); !ok {
		return app.Wrong("", "its test is not known")
	}
	var png []byte
	if o.File != "" {
		if png, err = p.read(o.File, media.PictureMost); err != nil {
			return err
		}
	}
	return h.BringTrialOrigin(ctx, act, ids[o.Screening], o.TrialOrigin, png)
}
