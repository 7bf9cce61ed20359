package planning

// QuestionID names a question on which practitioners differ, AnswerID one of its
// answers. A test holds them against the table of schools.
type (
	QuestionID string
	AnswerID   string
)

// The questions.
const (
	AskSoleRelease     QuestionID = "sole-release"
	AskSoleTreatment   QuestionID = "sole-treatment"
	AskToeWork         QuestionID = "toe-work"
	AskSetEnd          QuestionID = "set-end"
	AskHowOften        QuestionID = "how-often"
	AskWhen            QuestionID = "when"
	AskCadence         QuestionID = "cadence"
	AskBarefoot        QuestionID = "barefoot"
	AskReleasePressure QuestionID = "release-pressure"
	AskReleaseWhere    QuestionID = "release-where"
	AskReleaseLength   QuestionID = "release-length"
	AskReleaseKnot     QuestionID = "release-knot"
	AskPassMark        QuestionID = "pass-mark"
	AskOrder           QuestionID = "order"
	AskSetSize         QuestionID = "set-size"
	AskInsoles         QuestionID = "insoles"
	AskHeelStrike      QuestionID = "heel-strike"
	AskWeightLine      QuestionID = "weight-line"
	AskPronation       QuestionID = "pronation"
	AskHeelBounce      QuestionID = "heel-bounce"
	AskLanding         QuestionID = "landing"
	AskFormOrder       QuestionID = "form-order"
	AskStartFrom       QuestionID = "start-from"
	AskStretchHold     QuestionID = "stretch-hold"
	AskCramp           QuestionID = "cramp"
	AskStrengthPain    QuestionID = "strength-pain"
	AskBentToes        QuestionID = "bent-toes"
	AskToePress        QuestionID = "toe-press"
	AskToeBall         QuestionID = "toe-ball"
	AskRaise           QuestionID = "raise"
)

// The answers, by question.
const (
	SoleReleaseByPain    AnswerID = "by-pain"
	SoleReleasePressHard AnswerID = "press-hard"
	SoleReleaseNoGrind   AnswerID = "no-grind"
	SoleReleaseThumb     AnswerID = "thumb"

	SoleTreatmentLoadEarly    AnswerID = "load-early"
	SoleTreatmentCalmFirst    AnswerID = "calm-first"
	SoleTreatmentStretchFirst AnswerID = "stretch-first"

	ToeWorkBoth    AnswerID = "both"
	ToeWorkLongToe AnswerID = "long-toe"
	ToeWorkCurl    AnswerID = "curl"

	SetEndFixed       AnswerID = "fixed"
	SetEndNearFatigue AnswerID = "near-fatigue"

	HowOftenByKind     AnswerID = "by-kind"
	HowOftenDailySmall AnswerID = "daily-small"
	HowOftenFewAWeek   AnswerID = "few-a-week"

	WhenByKind AnswerID = "by-kind"
	WhenBefore AnswerID = "before"
	WhenAway   AnswerID = "away"

	CadenceOwnBaseline AnswerID = "own-baseline"
	CadenceFixedRange  AnswerID = "fixed-range"

	BarefootGated         AnswerID = "gated"
	BarefootGradualForAll AnswerID = "gradual-for-all"
	BarefootShoesStay     AnswerID = "shoes-stay"

	ReleasePressureEasy AnswerID = "easy"
	ReleasePressureFirm AnswerID = "firm"

	ReleaseWhereWhole      AnswerID = "whole"
	ReleaseWhereOuterFirst AnswerID = "outer-first"
	ReleaseWhereSpot       AnswerID = "spot"

	ReleaseLengthShort AnswerID = "short"
	ReleaseLengthLong  AnswerID = "long"

	ReleaseKnotHold    AnswerID = "hold"
	ReleaseKnotCircles AnswerID = "circles"
	ReleaseKnotPulse   AnswerID = "pulse"
	ReleaseKnotSettle  AnswerID = "settle"

	PassMarkFixed   AnswerID = "fixed"
	PassMarkOwnBest AnswerID = "own-best"

	OrderByFinding  AnswerID = "by-finding"
	OrderStrengthen AnswerID = "strengthen"

	SetSizeSmall  AnswerID = "small"
	SetSizeTwenty AnswerID = "twenty"

	InsolesKeep AnswerID = "keep"
	InsolesWean AnswerID = "wean"

	HeelStrikeLeave    AnswerID = "leave"
	HeelStrikeMiddle   AnswerID = "middle"
	HeelStrikeForefoot AnswerID = "forefoot"

	WeightLineTripod     AnswerID = "tripod"
	WeightLineInnerBall  AnswerID = "inner-ball"
	WeightLineOuterAwake AnswerID = "outer-awake"

	PronationBothWays AnswerID = "both-ways"
	PronationHoldUp   AnswerID = "hold-up"

	HeelBounceMayKiss AnswerID = "may-kiss"
	HeelBounceNever   AnswerID = "never"

	LandingQuiet   AnswerID = "quiet"
	LandingSpringy AnswerID = "springy"

	FormOrderPostureFirst AnswerID = "posture-first"
	FormOrderCadenceFirst AnswerID = "cadence-first"

	StartFromByFinding AnswerID = "by-finding"
	StartFromFootUp    AnswerID = "foot-up"
	StartFromHipDown   AnswerID = "hip-down"

	StretchHoldHalfMinute AnswerID = "half-minute"
	StretchHoldShort      AnswerID = "short"
	StretchHoldTwoMinutes AnswerID = "two-minutes"

	CrampStop       AnswerID = "stop"
	CrampSmallDaily AnswerID = "small-daily"

	StrengthPainToFive   AnswerID = "to-five"
	StrengthPainWhenCalm AnswerID = "when-calm"

	BentToesSpreadFirst AnswerID = "spread-first"
	BentToesStrength    AnswerID = "strength"

	ToePressLong AnswerID = "long"
	ToePressGrab AnswerID = "grab"

	ToeBallStays   AnswerID = "stays"
	ToeBallMayLift AnswerID = "may-lift"

	RaiseFullHeight AnswerID = "full-height"
	RaiseToTheBeat  AnswerID = "to-the-beat"
)
