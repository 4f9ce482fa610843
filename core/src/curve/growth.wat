;; The growth of a tube's reach: what reachTube.ts says in plain numbers, operation for operation, so that both give the same to
;; the last bit. Made into growthCode.ts by `npm run wasm`.
(module
  (import "core" "memory" (memory 1))

  ;; t, low, high, reachLow, reachHigh: addresses of columns of f64; floor and ceiling of i32, for the hulls. from, reached, far and n
  ;; count samples; within, a sample is its distance in bytes from the beginning of a column. Gives back the last sample reached.
  (func (export "grow")
    (param $t i32) (param $low i32) (param $high i32) (param $reachLow i32) (param $reachHigh i32)
    (param $floor i32) (param $ceiling i32)
    (param $from i32) (param $reached i32) (param $far i32) (param $n i32)
    (result i32)
    (local $first i32) (local $i i32) (local $p i32) (local $q i32)
    (local $floorTail i32) (local $ceilingTail i32)
    (local $ti f64) (local $l f64) (local $h f64) (local $lowest f64) (local $highest f64)
    (local $steepTime f64) (local $steepValue f64) (local $steep f64)
    (local $shallowTime f64) (local $shallowValue f64) (local $shallow f64)
    (local $bottom f64) (local $top f64) (local $slope f64) (local $tq f64) (local $vq f64) (local $step f64)
    (local.set $from (i32.shl (local.get $from) (i32.const 3)))
    (local.set $reached (i32.shl (local.get $reached) (i32.const 3)))
    (local.set $far (i32.shl (local.get $far) (i32.const 3)))
    (local.set $n (i32.shl (local.get $n) (i32.const 3)))
    (local.set $first (i32.add (local.get $from) (i32.const 8)))
    (local.set $steepTime (f64.load (i32.add (local.get $t) (local.get $from))))
    (local.set $steepValue (f64.load (i32.add (local.get $low) (local.get $from))))
    (local.set $shallowTime (local.get $steepTime))
    (local.set $shallowValue (f64.load (i32.add (local.get $high) (local.get $from))))
    (local.set $step (f64.sub (f64.load (i32.add (local.get $t) (local.get $first))) (local.get $steepTime)))
    (local.set $steep
      (f64.div
        (f64.sub (f64.load (i32.add (local.get $high) (local.get $first))) (local.get $steepValue))
        (local.get $step)))
    (local.set $shallow
      (f64.div
        (f64.sub (f64.load (i32.add (local.get $low) (local.get $first))) (local.get $shallowValue))
        (local.get $step)))
    ;; $floor and $ceiling go on to where the heads of the hulls stand.
    (i32.store (local.get $floor) (local.get $from))
    (i32.store (local.get $ceiling) (local.get $from))
    (local.set $floorTail (i32.add (local.get $floor) (i32.const 4)))
    (local.set $ceilingTail (i32.add (local.get $ceiling) (i32.const 4)))
    (local.set $i (local.get $first))
    (block $out
      (loop $next
      (br_if $out (i32.ge_u (local.get $i) (local.get $n)))
      (local.set $ti (f64.load (i32.add (local.get $t) (local.get $i))))
      (local.set $l (f64.load (i32.add (local.get $low) (local.get $i))))
      (local.set $h (f64.load (i32.add (local.get $high) (local.get $i))))
      (local.set $lowest
        (f64.add (local.get $shallowValue)
          (f64.mul (local.get $shallow) (f64.sub (local.get $ti) (local.get $shallowTime)))))
      (local.set $highest
        (f64.add (local.get $steepValue)
          (f64.mul (local.get $steep) (f64.sub (local.get $ti) (local.get $steepTime)))))
      (if (i32.gt_u (local.get $i) (local.get $first))
        (then
          (br_if $out (f64.gt (local.get $l) (local.get $highest)))
          (br_if $out (f64.lt (local.get $h) (local.get $lowest)))))
      (if (i32.gt_s (local.get $i) (local.get $reached))
        (then
          (local.set $bottom (select (local.get $l) (local.get $lowest) (f64.gt (local.get $l) (local.get $lowest))))
          (local.set $top (select (local.get $h) (local.get $highest) (f64.lt (local.get $h) (local.get $highest))))
          (block $joined
            (block $replace
              (br_if $replace (i32.gt_s (local.get $i) (local.get $far)))
              (if
                (i32.and
                  (f64.le (local.get $bottom) (f64.load (i32.add (local.get $reachHigh) (local.get $i))))
                  (f64.ge (local.get $top) (f64.load (i32.add (local.get $reachLow) (local.get $i)))))
                (then
                  (if (f64.lt (local.get $bottom) (f64.load (i32.add (local.get $reachLow) (local.get $i))))
                    (then (f64.store (i32.add (local.get $reachLow) (local.get $i)) (local.get $bottom))))
                  (if (f64.gt (local.get $top) (f64.load (i32.add (local.get $reachHigh) (local.get $i))))
                    (then (f64.store (i32.add (local.get $reachHigh) (local.get $i)) (local.get $top))))
                  (br $joined)))
              (br_if $replace
                (f64.gt
                  (f64.sub (local.get $top) (local.get $bottom))
                  (f64.sub (f64.load (i32.add (local.get $reachHigh) (local.get $i))) (f64.load (i32.add (local.get $reachLow) (local.get $i))))))
              (br $joined))
            (f64.store (i32.add (local.get $reachLow) (local.get $i)) (local.get $bottom))
            (f64.store (i32.add (local.get $reachHigh) (local.get $i)) (local.get $top)))))
      ;; The ceiling comes down on the steepest line: it now leans on this window and on the floor hull behind.
      (if (f64.lt (local.get $h) (local.get $highest)) (then
        (local.set $p (i32.load (local.get $floor)))
        (local.set $steep
          (f64.div
            (f64.sub (local.get $h) (f64.load (i32.add (local.get $low) (local.get $p))))
            (f64.sub (local.get $ti) (f64.load (i32.add (local.get $t) (local.get $p))))))
        (block $leans
          (loop $walk
            (br_if $leans (i32.ge_u (i32.add (local.get $floor) (i32.const 4)) (local.get $floorTail)))
            (local.set $p (i32.load offset=4 (local.get $floor)))
            (local.set $slope
              (f64.div
                (f64.sub (local.get $h) (f64.load (i32.add (local.get $low) (local.get $p))))
                (f64.sub (local.get $ti) (f64.load (i32.add (local.get $t) (local.get $p))))))
            (br_if $leans (f64.gt (local.get $slope) (local.get $steep)))
            (local.set $steep (local.get $slope))
            (local.set $floor (i32.add (local.get $floor) (i32.const 4)))
            (br $walk)))
        (local.set $steepTime (local.get $ti))
        (local.set $steepValue (local.get $h))))
      (if (f64.gt (local.get $l) (local.get $lowest)) (then
        (local.set $p (i32.load (local.get $ceiling)))
        (local.set $shallow
          (f64.div
            (f64.sub (local.get $l) (f64.load (i32.add (local.get $high) (local.get $p))))
            (f64.sub (local.get $ti) (f64.load (i32.add (local.get $t) (local.get $p))))))
        (block $leans
          (loop $walk
            (br_if $leans (i32.ge_u (i32.add (local.get $ceiling) (i32.const 4)) (local.get $ceilingTail)))
            (local.set $p (i32.load offset=4 (local.get $ceiling)))
            (local.set $slope
              (f64.div
                (f64.sub (local.get $l) (f64.load (i32.add (local.get $high) (local.get $p))))
                (f64.sub (local.get $ti) (f64.load (i32.add (local.get $t) (local.get $p))))))
            (br_if $leans (f64.lt (local.get $slope) (local.get $shallow)))
            (local.set $shallow (local.get $slope))
            (local.set $ceiling (i32.add (local.get $ceiling) (i32.const 4)))
            (br $walk)))
        (local.set $shallowTime (local.get $ti))
        (local.set $shallowValue (local.get $l))))
      (block $kept
        (loop $drop
          (br_if $kept (i32.lt_u (i32.sub (local.get $floorTail) (local.get $floor)) (i32.const 8)))
          (local.set $q (i32.load (i32.sub (local.get $floorTail) (i32.const 4))))
          (local.set $p (i32.load (i32.sub (local.get $floorTail) (i32.const 8))))
          (local.set $tq (f64.load (i32.add (local.get $t) (local.get $q))))
          (local.set $vq (f64.load (i32.add (local.get $low) (local.get $q))))
          (br_if $kept
            (f64.gt
              (f64.mul
                (f64.sub (local.get $vq) (f64.load (i32.add (local.get $low) (local.get $p))))
                (f64.sub (local.get $ti) (local.get $tq)))
              (f64.mul
                (f64.sub (local.get $l) (local.get $vq))
                (f64.sub (local.get $tq) (f64.load (i32.add (local.get $t) (local.get $p)))))))
          (local.set $floorTail (i32.sub (local.get $floorTail) (i32.const 4)))
          (br $drop)))
      (i32.store (local.get $floorTail) (local.get $i))
      (local.set $floorTail (i32.add (local.get $floorTail) (i32.const 4)))
      (block $kept
        (loop $drop
          (br_if $kept (i32.lt_u (i32.sub (local.get $ceilingTail) (local.get $ceiling)) (i32.const 8)))
          (local.set $q (i32.load (i32.sub (local.get $ceilingTail) (i32.const 4))))
          (local.set $p (i32.load (i32.sub (local.get $ceilingTail) (i32.const 8))))
          (local.set $tq (f64.load (i32.add (local.get $t) (local.get $q))))
          (local.set $vq (f64.load (i32.add (local.get $high) (local.get $q))))
          (br_if $kept
            (f64.lt
              (f64.mul
                (f64.sub (local.get $vq) (f64.load (i32.add (local.get $high) (local.get $p))))
                (f64.sub (local.get $ti) (local.get $tq)))
              (f64.mul
                (f64.sub (local.get $h) (local.get $vq))
                (f64.sub (local.get $tq) (f64.load (i32.add (local.get $t) (local.get $p)))))))
          (local.set $ceilingTail (i32.sub (local.get $ceilingTail) (i32.const 4)))
          (br $drop)))
      (i32.store (local.get $ceilingTail) (local.get $i))
      (local.set $ceilingTail (i32.add (local.get $ceilingTail) (i32.const 4)))
      (local.set $i (i32.add (local.get $i) (i32.const 8)))
      (br $next)))
    (i32.sub (i32.shr_u (local.get $i) (i32.const 3)) (i32.const 1)))
)
