package e2e

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
)

// givenLink is the link on show.
func (p *tab) givenLink() string {
	p.t.Helper()
	return p.MustElement(`input[aria-label="The link"]`).MustProperty("value").Str()
}

// chooses picks an option of a list by its label.
func (p *tab) chooses(label, option string) {
	p.t.Helper()
	p.MustElement(`select[aria-label="` + label + `"]`).MustSelect(option)
}

// Somebody is invited, comes in, gets another role, and is signed out elsewhere; a page in
// use follows at once.
func TestSomebodyIsInvitedComesInAndGoes(t *testing.T) {
	s := serve(t, true)
	const word = "harbour candle zebra seven"
	owner := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	owner.signIn(demo.Email)
	owner.goTo("/practice/people")
	owner.sees("Guest of the club")
	owner.axe()
	owner.MustElementR("label", "^For whom$")
	owner.MustElement(`section[aria-label="Invite somebody"] input`).MustInput("Ada")
	owner.MustElementR("button", "^Make a link$").MustClick()
	owner.sees("It is shown once, works once")
	link := owner.givenLink()
	owner.axe()

	ada := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	ada.MustNavigate(link)
	ada.sees("Welcome to Morrow Island Harriers")
	ada.axe()
	ada.fill("Your name", "Ada Penn")
	ada.fill("E-mail", "ada@harriers.example")
	ada.fill("Password", "password12")
	ada.allow("422")
	ada.MustElementR("button", "^Come in$").MustClick()
	ada.sees("first that are guessed")
	ada.fill("Password", word)
	ada.MustElementR("button", "^Come in$").MustClick()
	ada.sees("Isolde Varga")
	assert.NotContains(t, ada.MustInfo().URL, "#", "the secret is out of the address")
	second := openIn(t, browser, s.URL, 390, 844, 3*time.Minute)
	second.allow("409")
	second.MustNavigate(link)
	second.sees("was used, taken back, or is too old")

	// Another device of hers, which she ends from the first.
	other := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	other.signInAs("ada@harriers.example", word)
	other.sees("Isolde Varga")
	ada.goTo("/practice/me")
	ada.sees("Signed in on")
	ada.axe()
	ada.MustElementR("button", "^Sign out on all others$").MustClick()
	ada.MustWait(`() => document.querySelectorAll('section[aria-label="Signed in on"] li').length === 1`)
	other.allow("401")
	other.MustEval(`() => { location.href = "/review" }`)
	other.sees("Sign in")

	// A viewer changes nothing, from the next click on.
	owner.goTo("/practice/people")
	owner.sees("Ada Penn")
	owner.chooses("What Ada Penn may do", "Viewer")
	owner.MustWait(`() => document.querySelector('select[aria-label="What Ada Penn may do"]').value === "viewer" && !document.querySelector('select[aria-label="What Ada Penn may do"]').disabled`)
	st := ada.MustEval(`async () => (await fetch('/api/runners', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({name: 'X'})})).status`).Int()
	assert.Equal(t, 403, st)
	ada.allow("403")

	// Gone is gone.
	owner.row("Ada Penn").MustElementR("button", "^Remove$").MustClick()
	owner.MustElementR("button", "^Remove Ada Penn$").MustClick()
	owner.MustWait(`() => !document.body.innerText.includes("Ada Penn")`)
	ada.allow("401")
	ada.MustEval(`() => { location.href = "/" }`)
	ada.sees("Sign in")
}

// row is the line of a list with a name.
func (p *tab) row(name string) *rod.Element {
	p.t.Helper()
	return p.MustElementR("li", name)
}

// fill types into a field by its label.
func (p *tab) fill(label, text string) {
	p.t.Helper()
	id := p.MustElementR("label", "^"+label+"$").MustAttribute("for")
	require.NotNil(p.t, id, label)
	p.MustEval(`id => document.getElementById(id).focus()`, *id)
	e := p.MustElement(`[id="` + *id + `"]`)
	e.MustSelectAllText().MustInput(text)
}

// signInAs signs somebody in.
func (p *tab) signInAs(email, password string) {
	p.t.Helper()
	p.MustNavigate(p.url)
	p.fill("E-mail", email)
	p.fill("Password", password)
	p.MustElementR("button", "^Sign in$").MustClick()
}

// A runner is taken off the bench and put back, agrees to something, and is deleted in two
// steps: a name has to be typed, and then nothing is left.
func TestARunnerIsPutAwayAndDeletedInTwoSteps(t *testing.T) {
	p := openIn(t, browser, serve(t, true).URL, 1280, 800, 3*time.Minute)
	p.signIn(demo.Email)
	edit := p.MustEval(`async () => '/runners/' + (await (await fetch('/api/runners?search=Isolde')).json()).items[0].id`).Str()
	p.goTo(edit + "/edit")
	p.MustElementR("button", "^Write one down$").MustClick()
	p.MustElementR("button", "^Save$")
	p.MustElement(`section[aria-label="Agreed to"] form button[type=submit]`).MustClick()
	p.sees("records are kept")
	p.axe()
	p.MustElementR("button", "^Take off the bench$").MustClick()
	p.sees("Off the bench since")
	p.goTo("/")
	p.sees("Dario")
	assert.NotContains(t, p.MustElement("main").MustText(), "Isolde")
	p.goTo("/practice/archive")
	p.sees("Who is not coached now")
	p.axe()
	p.MustElement(`button[aria-label="Put Isolde Varga back on the bench"]`).MustClick()
	p.sees("Nobody")
	p.goTo("/")
	p.sees("Isolde Varga")

	p.goTo(edit + "/edit")
	p.MustElementR("button", "^Delete everything about this runner").MustClick()
	p.sees("lines of the journal")
	p.axe()
	del := p.MustElementR("button", "^Delete for good$")
	assert.True(t, del.MustProperty("disabled").Bool())
	p.fill("Type the name: Isolde Varga", "Isolde")
	p.MustElementX(`//label[span[normalize-space()="Why"]]/select`).MustSelect("the runner asked for it")
	assert.True(t, del.MustProperty("disabled").Bool(), "the whole name")
	p.fill("Type the name: Isolde Varga", "Isolde Varga")
	p.MustElementR("button", "^Delete for good$").MustClick()
	p.sees("Dario")
	p.MustWait(`() => location.pathname === "/" && !document.querySelector("main").innerText.includes("Isolde")`)
	p.allow("404")
	p.goTo(edit)
	p.sees("This record does not exist")
	assert.False(t, strings.Contains(p.MustElement("main").MustText(), "Isolde"))
}

// A safety question of the practice's own: added in two steps, asked at the next screening
// and on the phone without a line, where a yes closes like any of the program's.
func TestAPracticeAsksAQuestionOfItsOwn(t *testing.T) {
	s := serve(t, true)
	const asked = "Lips or tongue swollen after a sting"
	owner := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	owner.signIn(demo.Email)
	owner.goTo("/practice/questions")
	owner.sees("None yet")
	owner.axe()
	owner.MustElementR("button", "^Look at it once more$").MustClick()
	owner.sees("at least eight characters")
	owner.MustElement("textarea").MustInput(asked)
	owner.MustElementR("button", "^Look at it once more$").MustClick()
	owner.sees("Choose what a yes closes")
	owner.MustElementR("label", "Care now: everything is closed").MustClick()
	owner.MustElementR("button", "^Look at it once more$").MustClick()
	owner.sees("Add this question?")
	owner.axe()
	owner.MustElementR("button", "^Add for good$").MustClick()
	owner.MustWait(`() => document.querySelectorAll('section[aria-label="Asked in this practice"] li').length === 1`)

	coach := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	coach.signIn(demo.CoachEmail)
	coach.goTo("/practice/questions")
	coach.sees(asked)
	assert.False(t, coach.MustHas("textarea"), "a coach adds none")
	coach.startScreening("Kit")
	coach.MustElementR("label", asked).MustScrollIntoView().MustClick()
	coach.sees("Care is needed now")

	phone := s.open(t, 390, 844)
	phone.allow(offlineTalk...)
	phone.letIn(s, "Isolde")
	phone.lies()
	phone.line(s, false)
	phone.taps("Something new hurts, or hurts more")
	phone.MustElement(`circle[aria-label="heel underside, left"]`).MustFocus()
	phone.press(input.Enter)
	phone.scale("Worst since yesterday: 2")
	phone.sees("Asked in this practice")
	phone.taps(asked)
	phone.taps("Tell my coach")
	phone.sees("Get care now")
}

// Somebody who reads miles and pounds types and reads them everywhere; what is kept is the
// same for everybody.
func TestMilesAndPounds(t *testing.T) {
	s := serve(t, true)
	p := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	p.signIn(demo.CoachEmail)
	p.goTo("/practice/me")
	p.MustElementR("label", "^miles, pounds$").MustClick()
	p.MustEval(`() => { window.before = true }`)
	p.MustElementR(`section[aria-label="Name and address"] button`, "^Save$").MustClick()
	p.MustWait(`() => !window.before && [...document.querySelectorAll("label")].find(l => l.innerText === "miles, pounds")?.querySelector("input").checked`) // the page begins anew
	p.goTo(runnerPath("Isolde", "/runs")(p))
	p.sees("mi a week")
	p.sees("mi is as usual")
	assert.NotContains(t, p.MustElement("main").MustText(), " km")
	p.MustElement(`section[aria-label="Add a run"]`).MustScrollIntoView()
	p.fill("Distance, mi", "5")
	p.fill("Minutes", "50")
	p.MustElementR("button", "^Add the run$").MustClick()
	p.MustWait(`() => document.querySelector('section[aria-label="Add a run"] input[inputmode]').value === ""`)
	act, id := s.coach(t, "Isolde")
	runs, err := s.house.Runs(ctx, act, id)
	require.NoError(t, err)
	found := false
	for _, r := range runs {
		found = found || r.Km > 8.04 && r.Km < 8.05
	}
	assert.True(t, found, "five miles are eight kilometres")

	owner := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	owner.signIn(demo.Email)
	owner.goTo(runnerPath("Isolde", "/runs")(owner))
	owner.sees("km a week")
	owner.goTo("/practice")
	owner.MustElementR("label", "^miles, pounds$").MustScrollIntoView().MustClick()
	owner.MustElementR("button", "^Save$").MustClick()
	owner.sees("Smallest step of weight, lb")
	phone := s.open(t, 390, 844)
	phone.letIn(s, "Isolde")
	phone.taps("tell a run")
	phone.sees("Miles")
}

// Where the practice offers stand-ins, a rendered clip and made-up runs are brought in like
// a camera's and a watch's; where it does not, nothing of them is seen.
func TestStandInsAreBroughtInLikeAnyFile(t *testing.T) {
	s := serve(t, true)
	p := openIn(t, browser, s.URL, 1280, 800, 4*time.Minute)
	p.signIn(demo.Email)
	p.goTo(runnerPath("Emeka", "/runs")(p))
	p.MustElementR("summary", "No watch at hand").MustScrollIntoView().MustClick()
	p.MustElementR("button", "Four weeks of made-up runs").MustClick()
	p.sees("Before it counts")
	p.goTo(screeningPath("Emeka")(p) + "/clips")
	p.MustElementR("summary", "No camera at hand").MustClick()
	p.axe()
	p.MustElementR("button", "^Lands on the ball$").MustClick()
	p.sees("rendered fore.webm")
	p.sees("taken in")

	p.goTo("/practice")
	p.MustElementR("label", "Offer stand-ins").MustScrollIntoView().MustClick()
	p.MustElementR("button", "^Save$").MustClick()
	p.sees("Saved.")
	p.goTo(screeningPath("Emeka")(p) + "/clips")
	p.sees("rendered fore.webm")
	p.rest()
	assert.NotContains(t, p.MustElement("body").MustText(), "No camera at hand")
}

// A coach signs in with a second device: its first code, what is wrong with a wrong one, a
// recovery code in its place. A key lets a program look and no more, and ends when it is
// taken back. The owner sees both.
func TestASecondDeviceAndAKeyForAProgram(t *testing.T) {
	s := serve(t, true)
	p := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	p.signIn(demo.CoachEmail)
	p.goTo("/practice/me")
	p.sees("A password can be seen or guessed")
	p.MustElementR("button", "^Set up a second device$").MustClick()
	p.fill("Your password", demo.Password)
	p.MustElementR("button", "^Go on$").MustClick()
	p.sees("let it read this square")
	p.axe()
	secret := strings.ReplaceAll(p.MustElement(`section[aria-label="Second device"] code`).MustText(), " ", "")
	p.allow("422")
	p.fill("Type the code it shows", "000000")
	p.MustElementR("button", "^Ask for it from now on$").MustClick()
	p.sees("type the one that is shown now")
	code, err := totp.GenerateCode(secret, time.Now())
	require.NoError(t, err)
	p.fill("Type the code it shows", code)
	p.MustElementR("button", "^Ask for it from now on$").MustClick()
	p.sees("They are shown this once")
	p.axe()
	codes := strings.Fields(p.MustElement(`textarea[aria-label="Recovery codes"]`).MustProperty("value").Str())
	require.Len(t, codes, 10)
	p.MustElementR("button", "^I have them$").MustClick()
	p.sees("10 recovery codes are left")

	p.MustElementR("button", "^Make a key$").MustClick()
	p.fill("Which program it is for", "Club table")
	p.fill("Your password", demo.Password)
	p.axe()
	p.MustElementR("button", "^Make the key$").MustClick()
	p.sees("It is shown this once; whoever has it comes in as you")
	key := p.MustElement(`input[aria-label="The key"]`).MustProperty("value").Str()
	ask := func(method, path, key string) int {
		req, err := http.NewRequest(method, s.URL+path, strings.NewReader(`{"name":"X"}`))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Authorization", "Bearer "+key)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	assert.Equal(t, 200, ask("GET", "/api/runners", key))
	assert.Equal(t, 403, ask("POST", "/api/runners", key))
	assert.Equal(t, 403, ask("GET", "/api/me", key))
	assert.Equal(t, 401, ask("GET", "/api/runners", key+"x"))

	again := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	again.allow("422")
	again.signInAs(demo.CoachEmail, demo.Password)
	again.sees("Code of your second device")
	again.axe()
	again.fill("Code of your second device", "123456")
	again.MustElementR("button", "^Sign in$").MustClick()
	again.sees("this code doesn't fit")
	again.fill("Code of your second device", codes[0])
	again.MustElementR("button", "^Sign in$").MustClick()
	again.sees("Isolde Varga")

	owner := openIn(t, browser, s.URL, 1280, 800, 3*time.Minute)
	owner.signIn(demo.Email)
	owner.goTo("/practice/people")
	owner.sees("second device")
	owner.MustElementR("summary", "comes in").MustClick()
	owner.axe()
	owner.MustElement(`button[aria-label="Take back the key for Club table"]`).MustClick()
	owner.MustWait(`() => !document.body.innerText.includes("Club table")`)
	assert.Equal(t, 401, ask("GET", "/api/runners", key))
	owner.MustElementR("button", "^Take it off$").MustClick()
	owner.MustElementR("button", "^Take it off and sign out$").MustClick()
	owner.MustWait(`() => !document.body.innerText.includes("second device")`)
	again.allow("401")
	again.MustEval(`() => { location.href = "/" }`)
	again.sees("Sign in")
	owner.goTo("/practice/access")
	owner.sees("a program of Teo")
	owner.sees("An owner took the second device off")
}
