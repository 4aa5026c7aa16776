package exchange

import "yardbloom/core/recipe"

// fromVersion2 turns a document of version 1 or 2, which held a list of steps,
// into one of version 3, which holds pours. Fields that no version knows stay.
// The document has been checked against its own schema.
func fromVersion2(doc map[string]any) map[string]any {
	out := map[string]any{}
	for name, v := range doc {
		if name != "steps" && name != "below" {
			out[name] = v
		}
	}
	out["version"] = float64(RecipeVersion)
	var pours []any
	water := 0.0
	for _, s := range list(doc["steps"]) {
		step := object(s)
		switch step["do"] {
		case "pour":
			p := pourOf(step)
			water += figure(p["water_g"])
			pours = append(pours, p)
		case "release":
			out["release_s"] = figure(step["at_s"])
		default: // a stir
			out["crust_s"] = figure(step["at_s"])
			if n := len(pours); n > 0 {
				object(pours[n-1])["stirred"] = true
			}
		}
	}
	_, steeps := out["release_s"]
	for i, p := range pours {
		pour := object(p)
		if _, stirred := pour["stirred"]; stirred && !steeps && pour["then"] == nil { // without a valve a stir follows on a pour
			pour["then"] = string(recipe.StirBed)
		}
		delete(pour, "stirred")
		const most = 4.5 // g per g of dose: more than that is no bloom
		if i == 0 && len(pours) > 1 && figure(pour["water_g"]) <= most*figure(doc["dose_g"]) {
			pour["bloom"] = true
		}
	}
	if !steeps {
		delete(out, "crust_s")
	}
	out["pours"], out["water_g"] = pours, water
	below(out, object(doc["below"]))
	return out
}

// pourOf turns a step that pours into a pour.
func pourOf(step map[string]any) map[string]any {
	out := map[string]any{}
	for name, v := range step {
		switch name {
		case "do":
		case "at_s":
			out["start_s"] = v
		case "swirl": // version 1 knew a swirl or nothing
			if v == true {
				out["then"] = string(recipe.Swirl)
			}
		default:
			out[name] = v
		}
	}
	return out
}

// below spreads what version 2 said of the carafe and the cup.
func below(out, old map[string]any) {
	if len(old) == 0 {
		return
	}
	move := func(into string, names map[string]string, needs string) {
		part := map[string]any{}
		for from, to := range names {
			if v, ok := old[from]; ok {
				part[to] = v
			}
		}
		if _, ok := part[needs]; ok {
			out[into] = part
		}
	}
	move("carafe", map[string]string{"carafe": "material", "carafe_c": "celsius"}, "material")
	move("ice", map[string]string{"ice_g": "mass_g", "ice_c": "temperature_c", "ice_wet": "wet", "wanted_c": "wanted_c"}, "mass_g")
	move("dilution", map[string]string{"dilution_g": "water_g", "dilution_c": "temperature_c"}, "water_g")
}

func list(v any) []any {
	l, _ := v.([]any)
	return l
}

func object(v any) map[string]any {
	o, _ := v.(map[string]any)
	return o
}

func figure(v any) float64 {
	f, _ := v.(float64)
	return f
}
