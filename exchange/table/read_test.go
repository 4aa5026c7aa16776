package table

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
)

var today = time.Date(2026, 11, 29, 12, 0, 0, 0, time.FixedZone("", 3600))

// What people have in their spreadsheets: signs, orders, units and line ends.
func TestSheetsFromElsewhere(t *testing.T) {
	t.Parallel()
	const want = "2026-11-03 Slate 15.0 g 250 g 93.0 °C 180 s 1.35 % 8"
	for name, file := range map[string]string{
		"as this program writes them": "id,started_at,coffee,dose_g,water_g,temperature_c,drawdown_s,tds_percent,mark\n" +
			"x,2026-11-03T08:15:00+01:00,Slate,15,250,93,180,1.35,8\n",
		"semicolons, decimal commas, days first": "Date;Coffee;Dose;Water;Temp;Brew time;TDS;Score\r\n3.11.2026;Slate;15,0;250;93;3:00;1,35;8\r\n",
		"tabs and another order": "Score\tCoffee\tTDS\tWater (g)\tBrew Time\tDose (g)\tTemp\tDate\n" +
			"8/10\tSlate\t1.35 %\t250 g\t3:00\t15 g\t93 °C\t2026-11-03\n",
		"ounces and Fahrenheit, months first": "Date,Bean,Coffee (oz),Water (oz),Temperature (F),Total time,TDS,Stars\n" +
			"11/3/2026,Slate,0.5291,8.8185,199.4,3:00,1.35,4\n",
		"units in the cells":    "date|coffee|dose|water|temp|time|tds|rating\n3 Nov 2026|Slate|15g|250ml|199.4F|3 min|1.35|80/100\n",
		"bare CR and a mark":    "\ufeffdate,coffee,dose,water,temp,time,tds,mark\r3 November 2026,Slate,15,250,93,180,1.35,8\r",
		"a ratio for the water": "date,coffee,dose,ratio,temp,time,tds,mark\n2026/11/03,Slate,15,1:16.67,93,3:00,1.35,8\n",
		"quotes in quotes and a comma in a note": "date,coffee,dose,water,temp,time,tds,mark,notes\n" +
			"2026-11-03,\"Slate\",15,250,93,3:00,1.35,8,\"she said \"\"good\"\", twice\"\n",
		"Windows-1252": "date;coffee;dose;water;temp;time;tds;mark;notes\n3.11.2026;Slate;15;250;93;3:00;1,35;8;caf\xe9\n",
		"a share for TDS, h:mm:ss and empty rows": "date,coffee,dose,water,temp,time,tds,mark\n\n2026-11-03,Slate,15,250,93,0:03:00,0.0135,8\n,,,,,,,\n",
		"a clock":                  "date,clock,coffee,dose,water,temp,drawdown,tds,mark\n2026-11-03,8:30 AM,Slate,15,250,93,3:00,1.35,8\n",
		"a time of day under time": "date,time,coffee,dose,water,temp,drawdown,tds,mark\n2026-11-03,08:30,Slate,15,250,93,3:00,1.35,8\n",
	} {
		s, err := Parse([]byte(file))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		m := Guess(s)
		rows := ReadRows(s, m, today)
		if len(rows) != 1 {
			t.Errorf("%s: %d rows", name, len(rows))
			continue
		}
		r := rows[0]
		got := fmt.Sprintf("%s %s %.1f g %.0f g %.1f °C %.0f s %.2f %% %d", r.At.Format(time.DateOnly), r.Coffee, r.Dose, r.Water, r.Temperature,
			float64(r.Drawdown), r.TDS, r.Mark)
		if strings.Contains(name, "stars") || strings.Contains(name, "ounces") {
			m.Columns[7].Unit = OfFive
			got = strings.TrimSuffix(got, " 8") + fmt.Sprint(" ", ReadRows(s, m, today)[0].Mark)
		}
		if got != want || !r.OK() {
			t.Errorf("%s: %s, %v, %+v", name, got, r.Faults, m)
		}
	}
}

// Mutations caught: a date read in the other order although another date shows it, a year of two digits, a day that the month does not have.
func TestDatesOfTables(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		typed string
		order Order
		want  string
	}{
		{"3/4/2026", DayFirst, "2026-04-03"}, {"3/4/2026", MonthFirst, "2026-03-04"}, {"13/4/26", DayFirst, "2026-04-13"},
		{"4-13-2026", MonthFirst, "2026-04-13"}, {"2026-04-13 7:05", DayFirst, "2026-04-13"}, {"13 Apr 2026 7:05 PM", DayFirst, "2026-04-13"},
		{"Apr 13, 2026", DayFirst, "2026-04-13"}, {"20260413", MonthFirst, "2026-04-13"}, {"31/2/2026", DayFirst, ""}, {"13/13/2026", DayFirst, ""},
		{"yesterday", DayFirst, ""}, {"1/1/1899", DayFirst, ""}, {"1/1/2099", DayFirst, ""}, {"2026", DayFirst, ""}, {"1/2/3/4", DayFirst, ""},
	} {
		got := ""
		if at, _, err := readDate(c.typed, c.order, today); err == nil {
			got = at.Format(time.DateOnly)
		}
		if got != c.want {
			t.Errorf("%s, %s first: %q, want %q", c.typed, c.order, got, c.want)
		}
	}
	for file, want := range map[string]Order{"date,x\n3/4/2026,\n25/4/2026,\n": DayFirst, "date,x\n3/4/2026,\n4/25/2026,\n": MonthFirst,
		"date,x\n3/4/2026,\n": DayFirst} {
		s, err := Parse([]byte(file))
		if err != nil {
			t.Fatal(err)
		}
		if got := Guess(s).Order; got != want {
			t.Errorf("%q: %s first", file, got)
		}
	}
}

// Nothing is guessed silently: what cannot be read is marked, and rows that are not brews say why.
func TestUnreadableCellsAreMarked(t *testing.T) {
	t.Parallel()
	s, err := Parse([]byte("date,coffee,dose,water,ratio,temp,time,tds,mark\n2026-11-03,Slate,15,250,,hot,3:75,99,8\n2026-11-03,,15,250,,93,3:00,,\n" +
		"2026-11-03,Slate,15,250,1:10,,,,\n2099-11-03,Slate,15,250,,,,,\n2026-11-03,Slate,250,30,,,,,\n2026-11-29,Slate,15,250,,,1:00,,\n"))
	if err != nil {
		t.Fatal(err)
	}
	m := Guess(s)
	m.Columns[6] = Column{Field: Drawdown}
	rows := ReadRows(s, m, today)
	if r := rows[0]; !r.OK() || r.Cells[5].Wrong == "" || r.Cells[6].Wrong == "" || r.Cells[7].Wrong == "" || r.Temperature != 0 ||
		r.Drawdown != 0 || r.TDS != 0 {
		t.Errorf("%+v", r)
	}
	for i, want := range []string{"", "no coffee", "the ratio is 1:10", "no date", "implausible ratio"} {
		if got := strings.Join(rows[i].Faults, "; "); (want == "") != (got == "") || !strings.Contains(got, want) {
			t.Errorf("row %d: %q, want %q", i, got, want)
		}
	}
	for file, want := range map[string]error{"": ErrNoTable, "date\n2026-11-03\n": ErrNoTable, "date,coffee\n": ErrEmpty, "\x00\x01,\x02\n": ErrNoTable,
		strings.Repeat("a,b\n", MaxRows+2): ErrLarge, strings.Repeat("x", MaxSheetBytes+1): ErrLarge} {
		if _, err := Parse([]byte(file)); err != want {
			t.Errorf("%.20q: %v, want %v", file, err, want)
		}
	}
}

// What the program writes, it reads, whatever its text is.
func FuzzParseSheet(f *testing.F) {
	for _, seed := range []string{"date,coffee,dose,water\n2026-11-03,Slate,15,250\n", "a;b\n\"x\"\"y\";2\n",
		"\xff\xfea\x00,\x00b\x00\n\x001\x00,\x002\x00", "a\tb\r1\t2\r"} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, file []byte) {
		s, err := Parse(file)
		if err != nil {
			return
		}
		m := Guess(s)
		for _, r := range ReadRows(s, m, today) {
			if len(r.Cells) != len(s.Headers) || r.OK() && (r.At.IsZero() || r.Coffee == "" || r.Dose <= 0 || r.Water <= 0) {
				t.Errorf("%+v", r)
			}
		}
		if slices.Contains(s.Headers, "\n") {
			t.Error("a header has a line end")
		}
	})
}
