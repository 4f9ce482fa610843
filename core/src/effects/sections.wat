;; Two sections in a row, one in each lane of a vector: what stateVariable.ts says in plain numbers, operation for operation, so
;; that both give the same to the last bit. Made into sectionsCode.ts by scripts/wasm.mjs.
;;
;; Samples (f64, at most 64) are at the memory's beginning. A run has the two states of each section, then the numbers a, b, c, d, p, q
;; of each as they are now; slopes are by how much those change with each sample.
(module
  (import "core" "memory" (memory 1))

  ;; Brings the first samples of a sound (f32) in as doubles.
  (func (export "bring") (param $sound i32) (param $count i32)
    (local $at i32) (local $end i32)
    (local.set $end (i32.shl (i32.and (local.get $count) (i32.const 0x7ffffffe)) (i32.const 3)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_s (local.get $at) (local.get $end)))
        (v128.store (local.get $at) (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $sound))))
        (local.set $sound (i32.add (local.get $sound) (i32.const 8)))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $next)))
    (if (i32.and (local.get $count) (i32.const 1))
      (then (f64.store (local.get $at) (f64.promote_f32 (f32.load (local.get $sound)))))))

  ;; Takes them back to where they came from.
  (func (export "take") (param $sound i32) (param $count i32)
    (local $at i32) (local $end i32)
    (local.set $end (i32.shl (i32.and (local.get $count) (i32.const 0x7ffffffe)) (i32.const 3)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_s (local.get $at) (local.get $end)))
        (v128.store64_lane 0 (local.get $sound) (f32x4.demote_f64x2_zero (v128.load (local.get $at))))
        (local.set $sound (i32.add (local.get $sound) (i32.const 8)))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $next)))
    (if (i32.and (local.get $count) (i32.const 1))
      (then (f32.store (local.get $sound) (f32.demote_f64 (f64.load (local.get $at)))))))

  ;; Sends the sample at $k through one section, in place: its states, its numbers and its slopes are at these addresses.
  (func $one (param $state i32) (param $at i32) (param $slopes i32) (param $k i32)
    (local $x f64) (local $e f64) (local $s f64) (local $r f64)
    (local.set $s (f64.load (local.get $state)))
    (local.set $r (f64.load offset=8 (local.get $state)))
    (local.set $x (f64.load (local.get $k)))
    (local.set $e (f64.sub (local.get $x) (local.get $r)))
    (f64.store (local.get $state)
      (f64.add
        (f64.mul (f64.load (local.get $at)) (local.get $s))
        (f64.mul (f64.load offset=8 (local.get $at)) (local.get $e))))
    (f64.store offset=8 (local.get $state)
      (f64.add
        (f64.add (local.get $r) (f64.mul (f64.load offset=8 (local.get $at)) (local.get $s)))
        (f64.mul (f64.load offset=16 (local.get $at)) (local.get $e))))
    (f64.store (local.get $k)
      (f64.add
        (f64.mul (f64.load offset=24 (local.get $at)) (local.get $x))
        (f64.add
          (f64.mul (f64.load offset=32 (local.get $at)) (local.get $s))
          (f64.mul (f64.load offset=40 (local.get $at)) (local.get $r)))))
    (f64.store (local.get $at) (f64.add (f64.load (local.get $at)) (f64.load (local.get $slopes))))
    (f64.store offset=8 (local.get $at) (f64.add (f64.load offset=8 (local.get $at)) (f64.load offset=8 (local.get $slopes))))
    (f64.store offset=16 (local.get $at) (f64.add (f64.load offset=16 (local.get $at)) (f64.load offset=16 (local.get $slopes))))
    (f64.store offset=24 (local.get $at) (f64.add (f64.load offset=24 (local.get $at)) (f64.load offset=24 (local.get $slopes))))
    (f64.store offset=32 (local.get $at) (f64.add (f64.load offset=32 (local.get $at)) (f64.load offset=32 (local.get $slopes))))
    (f64.store offset=40 (local.get $at) (f64.add (f64.load offset=40 (local.get $at)) (f64.load offset=40 (local.get $slopes)))))

  ;; A state, or 0 where it has died away.
  (func $settled (param $state f64) (result f64)
    (select (f64.const 0) (local.get $state) (f64.lt (f64.abs (local.get $state)) (f64.const 1e-25))))

  ;; Sends the first samples, one at least, through both. The second is a sample behind the first: both work at once, on what is
  ;; ready. What that leaves over at both ends is done by itself. $begun: the numbers of the run stand; else they begin at $starts.
  (func (export "two") (param $run i32) (param $starts i32) (param $slopes i32) (param $begun i32) (param $count i32)
    (local $at i32) (local $end i32) (local $twos i32) (local $numbers i32)
    (local $x v128) (local $y v128) (local $e v128) (local $s v128) (local $r v128) (local $s2 v128)
    (local $a v128) (local $b v128) (local $c v128) (local $d v128) (local $p v128) (local $q v128)
    (local $da v128) (local $db v128) (local $dc v128) (local $dd v128) (local $dp v128) (local $dq v128)
    (local.set $numbers (i32.add (local.get $run) (i32.const 32)))
    (if (i32.eqz (local.get $begun))
      (then
        (v128.store (local.get $numbers) (v128.load (local.get $starts)))
        (v128.store offset=16 (local.get $numbers) (v128.load offset=16 (local.get $starts)))
        (v128.store offset=32 (local.get $numbers) (v128.load offset=32 (local.get $starts)))
        (v128.store offset=48 (local.get $numbers) (v128.load offset=48 (local.get $starts)))
        (v128.store offset=64 (local.get $numbers) (v128.load offset=64 (local.get $starts)))
        (v128.store offset=80 (local.get $numbers) (v128.load offset=80 (local.get $starts)))))
    (call $one (local.get $run) (local.get $numbers) (local.get $slopes) (i32.const 0))
    (local.set $end (i32.shl (i32.sub (local.get $count) (i32.const 1)) (i32.const 3)))
    (if (i32.gt_s (local.get $end) (i32.const 0))
      (then
        ;; Lane by lane: what was written by eights is not there at once as sixteen.
        (local.set $s
          (v128.load64_lane offset=16 1 (local.get $run) (v128.load64_zero (local.get $run))))
        (local.set $r
          (v128.load64_lane offset=24 1 (local.get $run) (v128.load64_zero offset=8 (local.get $run))))
        (local.set $a
          (v128.load64_lane offset=48 1 (local.get $numbers) (v128.load64_zero (local.get $numbers))))
        (local.set $b
          (v128.load64_lane offset=56 1 (local.get $numbers) (v128.load64_zero offset=8 (local.get $numbers))))
        (local.set $c
          (v128.load64_lane offset=64 1 (local.get $numbers) (v128.load64_zero offset=16 (local.get $numbers))))
        (local.set $d
          (v128.load64_lane offset=72 1 (local.get $numbers) (v128.load64_zero offset=24 (local.get $numbers))))
        (local.set $p
          (v128.load64_lane offset=80 1 (local.get $numbers) (v128.load64_zero offset=32 (local.get $numbers))))
        (local.set $q
          (v128.load64_lane offset=88 1 (local.get $numbers) (v128.load64_zero offset=40 (local.get $numbers))))
        (local.set $da
          (v128.load64_lane offset=48 1 (local.get $slopes) (v128.load64_zero (local.get $slopes))))
        (local.set $db
          (v128.load64_lane offset=56 1 (local.get $slopes) (v128.load64_zero offset=8 (local.get $slopes))))
        (local.set $dc
          (v128.load64_lane offset=64 1 (local.get $slopes) (v128.load64_zero offset=16 (local.get $slopes))))
        (local.set $dd
          (v128.load64_lane offset=72 1 (local.get $slopes) (v128.load64_zero offset=24 (local.get $slopes))))
        (local.set $dp
          (v128.load64_lane offset=80 1 (local.get $slopes) (v128.load64_zero offset=32 (local.get $slopes))))
        (local.set $dq
          (v128.load64_lane offset=88 1 (local.get $slopes) (v128.load64_zero offset=40 (local.get $slopes))))
        ;; What the first has given out last.
        (local.set $y (v128.load64_zero (i32.const 0)))
        ;; Two steps at a time, and the one that is left.
        (local.set $twos (i32.and (local.get $end) (i32.const 0x7ffffff0)))
        (if (local.get $twos)
          (then
            (loop $next
              (local.set $x
                (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23
                  (v128.load64_zero offset=8 (local.get $at))
                  (local.get $y)))
              (local.set $e (f64x2.sub (local.get $x) (local.get $r)))
              (local.set $s2
                (f64x2.add (f64x2.mul (local.get $a) (local.get $s)) (f64x2.mul (local.get $b) (local.get $e))))
              (local.set $y
                (f64x2.add
                  (f64x2.mul (local.get $d) (local.get $x))
                  (f64x2.add (f64x2.mul (local.get $p) (local.get $s)) (f64x2.mul (local.get $q) (local.get $r)))))
              (local.set $r
                (f64x2.add
                  (f64x2.add (local.get $r) (f64x2.mul (local.get $b) (local.get $s)))
                  (f64x2.mul (local.get $c) (local.get $e))))
              (local.set $s (local.get $s2))
              (v128.store64_lane 1 (local.get $at) (local.get $y))
              (local.set $a (f64x2.add (local.get $a) (local.get $da)))
              (local.set $b (f64x2.add (local.get $b) (local.get $db)))
              (local.set $c (f64x2.add (local.get $c) (local.get $dc)))
              (local.set $d (f64x2.add (local.get $d) (local.get $dd)))
              (local.set $p (f64x2.add (local.get $p) (local.get $dp)))
              (local.set $q (f64x2.add (local.get $q) (local.get $dq)))
              (local.set $x
                (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23
                  (v128.load64_zero offset=16 (local.get $at))
                  (local.get $y)))
              (local.set $e (f64x2.sub (local.get $x) (local.get $r)))
              (local.set $s2
                (f64x2.add (f64x2.mul (local.get $a) (local.get $s)) (f64x2.mul (local.get $b) (local.get $e))))
              (local.set $y
                (f64x2.add
                  (f64x2.mul (local.get $d) (local.get $x))
                  (f64x2.add (f64x2.mul (local.get $p) (local.get $s)) (f64x2.mul (local.get $q) (local.get $r)))))
              (local.set $r
                (f64x2.add
                  (f64x2.add (local.get $r) (f64x2.mul (local.get $b) (local.get $s)))
                  (f64x2.mul (local.get $c) (local.get $e))))
              (local.set $s (local.get $s2))
              (v128.store64_lane offset=8 1 (local.get $at) (local.get $y))
              (local.set $a (f64x2.add (local.get $a) (local.get $da)))
              (local.set $b (f64x2.add (local.get $b) (local.get $db)))
              (local.set $c (f64x2.add (local.get $c) (local.get $dc)))
              (local.set $d (f64x2.add (local.get $d) (local.get $dd)))
              (local.set $p (f64x2.add (local.get $p) (local.get $dp)))
              (local.set $q (f64x2.add (local.get $q) (local.get $dq)))
              (local.set $at (i32.add (local.get $at) (i32.const 16)))
              (br_if $next (i32.lt_s (local.get $at) (local.get $twos))))))
        (if (i32.lt_s (local.get $at) (local.get $end))
          (then
            (local.set $x
              (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23
                (v128.load64_zero offset=8 (local.get $at))
                (local.get $y)))
            (local.set $e (f64x2.sub (local.get $x) (local.get $r)))
            (local.set $s2
              (f64x2.add (f64x2.mul (local.get $a) (local.get $s)) (f64x2.mul (local.get $b) (local.get $e))))
            (local.set $y
              (f64x2.add
                (f64x2.mul (local.get $d) (local.get $x))
                (f64x2.add (f64x2.mul (local.get $p) (local.get $s)) (f64x2.mul (local.get $q) (local.get $r)))))
            (local.set $r
              (f64x2.add
                (f64x2.add (local.get $r) (f64x2.mul (local.get $b) (local.get $s)))
                (f64x2.mul (local.get $c) (local.get $e))))
            (local.set $s (local.get $s2))
            (v128.store64_lane 1 (local.get $at) (local.get $y))
            (local.set $a (f64x2.add (local.get $a) (local.get $da)))
            (local.set $b (f64x2.add (local.get $b) (local.get $db)))
            (local.set $c (f64x2.add (local.get $c) (local.get $dc)))
            (local.set $d (f64x2.add (local.get $d) (local.get $dd)))
            (local.set $p (f64x2.add (local.get $p) (local.get $dp)))
            (local.set $q (f64x2.add (local.get $q) (local.get $dq)))
            (local.set $at (i32.add (local.get $at) (i32.const 8)))))
        (v128.store64_lane 0 (local.get $at) (local.get $y))
        (v128.store64_lane 0 (local.get $run) (local.get $s))
        (v128.store64_lane offset=16 1 (local.get $run) (local.get $s))
        (v128.store64_lane offset=8 0 (local.get $run) (local.get $r))
        (v128.store64_lane offset=24 1 (local.get $run) (local.get $r))
        (v128.store64_lane 0 (local.get $numbers) (local.get $a))
        (v128.store64_lane offset=48 1 (local.get $numbers) (local.get $a))
        (v128.store64_lane offset=8 0 (local.get $numbers) (local.get $b))
        (v128.store64_lane offset=56 1 (local.get $numbers) (local.get $b))
        (v128.store64_lane offset=16 0 (local.get $numbers) (local.get $c))
        (v128.store64_lane offset=64 1 (local.get $numbers) (local.get $c))
        (v128.store64_lane offset=24 0 (local.get $numbers) (local.get $d))
        (v128.store64_lane offset=72 1 (local.get $numbers) (local.get $d))
        (v128.store64_lane offset=32 0 (local.get $numbers) (local.get $p))
        (v128.store64_lane offset=80 1 (local.get $numbers) (local.get $p))
        (v128.store64_lane offset=40 0 (local.get $numbers) (local.get $q))
        (v128.store64_lane offset=88 1 (local.get $numbers) (local.get $q))))
    (call $one
      (i32.add (local.get $run) (i32.const 16))
      (i32.add (local.get $numbers) (i32.const 48))
      (i32.add (local.get $slopes) (i32.const 48))
      (local.get $end))
    (f64.store (local.get $run) (call $settled (f64.load (local.get $run))))
    (f64.store offset=8 (local.get $run) (call $settled (f64.load offset=8 (local.get $run))))
    (f64.store offset=16 (local.get $run) (call $settled (f64.load offset=16 (local.get $run))))
    (f64.store offset=24 (local.get $run) (call $settled (f64.load offset=24 (local.get $run)))))

  ;; e to the power of two numbers: what quickExpInPlace says.
  (func $exp (param $v v128) (result v128)
    (local $k v128) (local $f v128) (local $g v128) (local $a v128)
    (local.set $k
      (f64x2.floor (f64x2.add (f64x2.mul (local.get $v) (v128.const f64x2 1.4426950408889634 1.4426950408889634)) (v128.const f64x2 0.5 0.5))))
    (local.set $f
      (f64x2.sub (local.get $v) (f64x2.mul (local.get $k) (v128.const f64x2 0.6931471805599453 0.6931471805599453))))
    (local.set $g
      (f64x2.mul (local.get $f) (local.get $f)))
    (local.set $a
      (f64x2.add (f64x2.add (v128.const f64x2 0.0000248015873015873 0.0000248015873015873) (f64x2.mul (local.get $f) (v128.const f64x2 0.0000027557319223985893 0.0000027557319223985893))) (f64x2.mul (local.get $g) (v128.const f64x2 2.755731922398589e-7 2.755731922398589e-7))))
    (local.set $a
      (f64x2.add (f64x2.add (v128.const f64x2 0.041666666666666664 0.041666666666666664) (f64x2.mul (local.get $f) (v128.const f64x2 0.008333333333333333 0.008333333333333333))) (f64x2.mul (local.get $g) (f64x2.add (f64x2.add (v128.const f64x2 0.001388888888888889 0.001388888888888889) (f64x2.mul (local.get $f) (v128.const f64x2 0.0001984126984126984 0.0001984126984126984))) (f64x2.mul (local.get $g) (local.get $a))))))
    (f64x2.mul (i64x2.shl (i64x2.add (i64x2.extend_low_i32x4_s (i32x4.trunc_sat_f64x2_s_zero (local.get $k))) (i64x2.splat (i64.const 1023))) (i32.const 52)) (f64x2.add (f64x2.add (v128.const f64x2 1 1) (local.get $f)) (f64x2.mul (local.get $g) (f64x2.add (f64x2.add (v128.const f64x2 0.5 0.5) (f64x2.mul (local.get $f) (v128.const f64x2 0.16666666666666666 0.16666666666666666))) (f64x2.mul (local.get $g) (local.get $a)))))))

  ;; Parameters that all go straight, two at once: what ParamValues says of each. From $rows on stand, in columns of
  ;; twelve (f64): when each begins, where on its throw, how far it goes, in how many seconds; of its law the lowest value, the reach, and
  ;; whether it is a logarithm; after them the time that is asked for. Puts them at $values; whether any is other than what was there.
  (func (export "straight") (param $rows i32) (param $values i32) (param $count i32) (result i32)
    (local $end i32) (local $at v128) (local $v v128) (local $other v128)
    (local.set $at (v128.load64_splat offset=672 (local.get $rows)))
    (local.set $end (i32.add (local.get $rows) (i32.shl (local.get $count) (i32.const 3))))
    (loop $next
      (local.set $v
        (f64x2.mul
          (f64x2.add
            (v128.load offset=96 (local.get $rows))
            (f64x2.div
              (f64x2.mul (v128.load offset=192 (local.get $rows)) (f64x2.sub (local.get $at) (v128.load (local.get $rows))))
              (v128.load offset=288 (local.get $rows))))
          (v128.load offset=480 (local.get $rows))))
      (local.set $v
        (v128.bitselect
          (f64x2.add (local.get $v) (v128.load offset=384 (local.get $rows)))
          (f64x2.mul (call $exp (local.get $v)) (v128.load offset=384 (local.get $rows)))
          (f64x2.eq (v128.load offset=576 (local.get $rows)) (v128.const f64x2 0 0))))
      (local.set $other
        (v128.or (local.get $other) (f64x2.ne (local.get $v) (v128.load (local.get $values)))))
      (v128.store (local.get $values) (local.get $v))
      (local.set $values (i32.add (local.get $values) (i32.const 16)))
      (local.set $rows (i32.add (local.get $rows) (i32.const 16)))
      (br_if $next (i32.lt_s (local.get $rows) (local.get $end))))
    (v128.any_true (local.get $other)))

  ;; The numbers of the bands of an equaliser $n and the one after it: what bandInto says, two at once. A list has, in eights of bytes: from 0
  ;; on where its 24 numbers start, from 24 their slopes, from 48 where they end; from 72 three values of each band, from 148 what shape
  ;; each is (0: low shelf, 1: peak, 2: high shelf), at 152 the sample rate.
  (func $bands (param $list i32) (param $n i32)
    (local $values i32) (local $ends i32) (local $shapes i32)
    (local $low v128) (local $high v128) (local $peak v128) (local $q v128) (local $gain v128) (local $v v128) (local $k v128)
    (local $f v128) (local $g v128) (local $u v128) (local $w v128) (local $a v128) (local $b v128) (local $a1 v128)
    (local $root v128) (local $square v128) (local $kq v128) (local $band v128) (local $below v128) (local $one v128)
    (local.set $values (i32.add (local.get $list) (i32.mul (local.get $n) (i32.const 24))))
    (local.set $ends (i32.add (local.get $list) (i32.mul (local.get $n) (i32.const 48))))
    (local.set $shapes (i32.add (local.get $list) (i32.shl (local.get $n) (i32.const 3))))
    (local.set $one (v128.const f64x2 1 1))
    (local.set $v (v128.load offset=1184 (local.get $shapes)))
    (local.set $low
      (f64x2.eq (local.get $v) (v128.const f64x2 0 0)))
    (local.set $peak
      (f64x2.eq (local.get $v) (local.get $one)))
    (local.set $high
      (f64x2.eq (local.get $v) (v128.const f64x2 2 2)))
    (local.set $q
      (v128.load64_lane offset=616 1 (local.get $values) (v128.load64_zero offset=592 (local.get $values))))
    ;; The square root of the gain: e to the power of half the level in nepers.
    (local.set $v
      (f64x2.mul (f64x2.div (v128.load64_lane offset=608 1 (local.get $values) (v128.load64_zero offset=584 (local.get $values))) (v128.const f64x2 2 2)) (v128.const f64x2 0.11512925464970229 0.11512925464970229)))
    (local.set $gain (call $exp (local.get $v)))
    ;; The tangent that its frequency is bent to.
    (local.set $u
      (f64x2.pmin (v128.const f64x2 0.49 0.49) (f64x2.div (v128.load64_lane offset=600 1 (local.get $values) (v128.load64_zero offset=576 (local.get $values))) (f64x2.splat (f64.load offset=1216 (local.get $list))))))
    (local.set $w
      (f64x2.sub (v128.const f64x2 0.5 0.5) (local.get $u)))
    (local.set $a
      (f64x2.mul (local.get $u) (local.get $u)))
    (local.set $b
      (f64x2.mul (local.get $w) (local.get $w)))
    (local.set $u
      (f64x2.mul (local.get $u) (f64x2.add (v128.const f64x2 3.141592653589793 3.141592653589793) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 -5.167712780049969 -5.167712780049969) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 2.550164039877345 2.550164039877345) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 -0.5992645293207919 -0.5992645293207919) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 0.08214588661112819 0.08214588661112819) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 -0.007370430945714347 -0.007370430945714347) (f64x2.mul (local.get $a) (f64x2.add (v128.const f64x2 0.00046630280576761223 0.00046630280576761223) (f64x2.mul (local.get $a) (v128.const f64x2 -0.000021915353447830197 -0.000021915353447830197)))))))))))))))))
    (local.set $w
      (f64x2.mul (local.get $w) (f64x2.add (v128.const f64x2 3.141592653589793 3.141592653589793) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 -5.167712780049969 -5.167712780049969) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 2.550164039877345 2.550164039877345) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 -0.5992645293207919 -0.5992645293207919) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 0.08214588661112819 0.08214588661112819) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 -0.007370430945714347 -0.007370430945714347) (f64x2.mul (local.get $b) (f64x2.add (v128.const f64x2 0.00046630280576761223 0.00046630280576761223) (f64x2.mul (local.get $b) (v128.const f64x2 -0.000021915353447830197 -0.000021915353447830197)))))))))))))))))
    (local.set $root
      (f64x2.sqrt (local.get $gain)))
    (local.set $square
      (f64x2.mul (local.get $gain) (local.get $gain)))
    (local.set $kq
      (f64x2.mul (local.get $q) (v128.bitselect (local.get $gain) (local.get $one) (local.get $peak))))
    (local.set $g
      (f64x2.mul (f64x2.div (local.get $u) (local.get $w)) (v128.bitselect (local.get $one) (v128.bitselect (f64x2.div (local.get $one) (local.get $root)) (local.get $root) (local.get $low)) (local.get $peak))))
    (local.set $a1
      (f64x2.div (local.get $one) (f64x2.add (local.get $one) (f64x2.mul (local.get $g) (f64x2.add (local.get $g) (f64x2.div (local.get $one) (local.get $kq)))))))
    (local.set $b
      (f64x2.mul (f64x2.mul (v128.const f64x2 2 2) (local.get $g)) (local.get $a1)))
    (local.set $f
      (f64x2.mul (local.get $g) (local.get $b)))
    (local.set $band
      (f64x2.div (f64x2.div (v128.bitselect (f64x2.sub (local.get $square) (local.get $one)) (v128.bitselect (f64x2.sub (local.get $gain) (local.get $one)) (f64x2.mul (f64x2.sub (local.get $one) (local.get $gain)) (local.get $gain)) (local.get $low)) (local.get $peak)) (local.get $kq)) (v128.const f64x2 2 2)))
    (local.set $below
      (f64x2.div (v128.bitselect (v128.const f64x2 0 0) (v128.bitselect (f64x2.sub (local.get $square) (local.get $one)) (f64x2.sub (local.get $one) (local.get $square)) (local.get $low)) (local.get $peak)) (v128.const f64x2 2 2)))
    (local.set $v
      (f64x2.add (v128.bitselect (local.get $square) (local.get $one) (local.get $high)) (f64x2.add (f64x2.mul (local.get $band) (local.get $b)) (f64x2.mul (local.get $below) (local.get $f)))))
    (local.set $k
      (f64x2.add (f64x2.mul (f64x2.mul (local.get $band) (v128.const f64x2 2 2)) (local.get $a1)) (f64x2.mul (local.get $below) (local.get $b))))
    (local.set $w
      (f64x2.sub (f64x2.mul (local.get $below) (f64x2.sub (v128.const f64x2 2 2) (local.get $f))) (f64x2.mul (local.get $band) (local.get $b))))
    (local.set $a
      (f64x2.sub (f64x2.mul (v128.const f64x2 2 2) (local.get $a1)) (local.get $one)))
    (v128.store64_lane offset=384 0 (local.get $ends) (local.get $a))
    (v128.store64_lane offset=432 1 (local.get $ends) (local.get $a))
    (v128.store64_lane offset=392 0 (local.get $ends) (local.get $b))
    (v128.store64_lane offset=440 1 (local.get $ends) (local.get $b))
    (v128.store64_lane offset=400 0 (local.get $ends) (local.get $f))
    (v128.store64_lane offset=448 1 (local.get $ends) (local.get $f))
    (v128.store64_lane offset=408 0 (local.get $ends) (local.get $v))
    (v128.store64_lane offset=456 1 (local.get $ends) (local.get $v))
    (v128.store64_lane offset=416 0 (local.get $ends) (local.get $k))
    (v128.store64_lane offset=464 1 (local.get $ends) (local.get $k))
    (v128.store64_lane offset=424 0 (local.get $ends) (local.get $w))
    (v128.store64_lane offset=472 1 (local.get $ends) (local.get $w)))

  ;; A stretch of so many frames begins: the numbers of all four bands start where they ended, and go to what the values lead to now.
  (func (export "lead") (param $list i32) (param $frames i32)
    (local $frames2 v128)
    (local.set $frames2 (f64x2.splat (f64.convert_i32_s (local.get $frames))))
    (v128.store (local.get $list) (v128.load offset=384 (local.get $list)))
    (v128.store offset=16 (local.get $list) (v128.load offset=400 (local.get $list)))
    (v128.store offset=32 (local.get $list) (v128.load offset=416 (local.get $list)))
    (v128.store offset=48 (local.get $list) (v128.load offset=432 (local.get $list)))
    (v128.store offset=64 (local.get $list) (v128.load offset=448 (local.get $list)))
    (v128.store offset=80 (local.get $list) (v128.load offset=464 (local.get $list)))
    (v128.store offset=96 (local.get $list) (v128.load offset=480 (local.get $list)))
    (v128.store offset=112 (local.get $list) (v128.load offset=496 (local.get $list)))
    (v128.store offset=128 (local.get $list) (v128.load offset=512 (local.get $list)))
    (v128.store offset=144 (local.get $list) (v128.load offset=528 (local.get $list)))
    (v128.store offset=160 (local.get $list) (v128.load offset=544 (local.get $list)))
    (v128.store offset=176 (local.get $list) (v128.load offset=560 (local.get $list)))
    (call $bands (local.get $list) (i32.const 0))
    (call $bands (local.get $list) (i32.const 2))
    (v128.store offset=192 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=384 (local.get $list)) (v128.load (local.get $list))) (local.get $frames2)))
    (v128.store offset=208 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=400 (local.get $list)) (v128.load offset=16 (local.get $list))) (local.get $frames2)))
    (v128.store offset=224 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=416 (local.get $list)) (v128.load offset=32 (local.get $list))) (local.get $frames2)))
    (v128.store offset=240 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=432 (local.get $list)) (v128.load offset=48 (local.get $list))) (local.get $frames2)))
    (v128.store offset=256 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=448 (local.get $list)) (v128.load offset=64 (local.get $list))) (local.get $frames2)))
    (v128.store offset=272 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=464 (local.get $list)) (v128.load offset=80 (local.get $list))) (local.get $frames2)))
    (v128.store offset=288 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=480 (local.get $list)) (v128.load offset=96 (local.get $list))) (local.get $frames2)))
    (v128.store offset=304 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=496 (local.get $list)) (v128.load offset=112 (local.get $list))) (local.get $frames2)))
    (v128.store offset=320 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=512 (local.get $list)) (v128.load offset=128 (local.get $list))) (local.get $frames2)))
    (v128.store offset=336 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=528 (local.get $list)) (v128.load offset=144 (local.get $list))) (local.get $frames2)))
    (v128.store offset=352 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=544 (local.get $list)) (v128.load offset=160 (local.get $list))) (local.get $frames2)))
    (v128.store offset=368 (local.get $list)
      (f64x2.div (f64x2.sub (v128.load offset=560 (local.get $list)) (v128.load offset=176 (local.get $list))) (local.get $frames2)))))
