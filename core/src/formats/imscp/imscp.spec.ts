import { walkOutline } from '../../model/index.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';
import { asDuration, asTimespan, withParameters } from './read.ts';

const page = (title: string) => `<html><head><title>${title}</title></head><body>${title}</body></html>`;
const outlineOf = async (files: Files) => {
  const { course, notes } = await readCourse(await packageOf(files));
  return {
    course,
    rows: [...walkOutline(course.outline)].map(
      ({ node, depth }) => `${depth} ${node.title}${node.item ? ` (${node.item})` : ''}`,
    ),
    notes,
    codes: notes.map((n) => n.code),
  };
};
const manifest = (inside: string, more = '') =>
  `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2"${more}>${inside}</manifest>`;

describe('Reading Content Packaging', () => {
  it('finds files by the bases of manifest, resources and resource', async () => {
    const { course, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<organizations><organization identifier="o"><item identifier="i" identifierref="r"><title>One</title></item></organization></organizations><resources xml:base="b/"><resource identifier="r" type="webcontent" xml:base="c/" href="x%20y.html"><file href="x%20y.html"/></resource></resources>',
        ' xml:base="a/"',
      ),
      'a/b/c/x y.html': page('One'),
    });
    expect(codes).toEqual([]);
    expect(course.items.map((i) => [i.kind, i.definitionPath])).toEqual([['page', 'a/b/c/x y.html']]);
  });

  it('reads sub-manifests in their place, and one that is part of itself once', async () => {
    const { rows, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        `<organizations><organization identifier="o"><item identifier="i" identifierref="sub"><title>Unit</title></item></organization></organizations><resources/>
        <manifest identifier="sub"><organizations><organization identifier="o2"><item identifier="j" identifierref="r"><title>Inside</title></item><item identifier="k" identifierref="sub"><title>Again</title></item></organization></organizations><resources><resource identifier="r" type="webcontent" href="p.html"><file href="p.html"/></resource></resources></manifest>`,
      ),
      'p.html': page('Inside'),
    });
    expect(rows).toEqual(['0 Unit', '1 Inside (r)', '1 Again']);
    expect(codes).toEqual(['manifest-circular']);
  });

  it('reads every organization: the default as the course, the others as folders', async () => {
    const organization = (id: string, title: string) =>
      `<organization identifier="${id}"><title>${title}</title><item identifier="i${id}" identifierref="r"><title>Page of ${title}</title></item></organization>`;
    const { rows, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        `<organizations default="b">${organization('a', 'First')}${organization('b', 'Second')}</organizations><resources><resource identifier="r" type="webcontent" href="p.html"><file href="p.html"/></resource></resources>`,
      ),
      'p.html': page('P'),
    });
    expect(rows).toEqual(['0 Page of Second (r)', '0 First', '1 Page of First (r)']);
    expect(codes).toEqual(['several-outlines']);
  });

  it('reads what SCORM 1.2 says of an entry', async () => {
    const { course } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata><organizations default="o"><organization identifier="o"><item identifier="i" identifierref="r" isvisible="false" parameters="?n=1"><title>Test</title><adlcp:prerequisites type="aicc_script">a&amp;b</adlcp:prerequisites><adlcp:maxtimeallowed>0000:30:00</adlcp:maxtimeallowed><adlcp:datafromlms>seed=7</adlcp:datafromlms><adlcp:masteryscore>80</adlcp:masteryscore></item></organization></organizations><resources><resource identifier="r" type="webcontent" adlcp:scormtype="sco" href="p.html"><file href="p.html"/></resource></resources>',
      ),
      'p.html': page('P'),
    });
    expect(course.origin).toEqual({ format: 'scorm', version: '1.2', untouched: true });
    expect(course.items[0]?.settings).toEqual({
      tracked: true,
      prerequisites: 'a&b',
      masteryScore: 80,
      launchData: 'seed=7',
      timeAllowed: 'PT30M',
      hidden: true,
      parameters: '?n=1',
    });
  });

  it('takes a resource elsewhere for a link, and keeps foreign ones', async () => {
    const { course, codes } = await outlineOf({
      'imsmanifest.xml': manifest(
        '<organizations><organization identifier="o"><item identifier="i" identifierref="l"><title>Far</title></item></organization></organizations><resources><resource identifier="l" type="webcontent" href="https://x.example/a?b=1&amp;c=2"/><resource identifier="f" type="thing/v1"><file href="t.bin"/></resource></resources>',
      ),
      't.bin': 'x',
    });
    expect(course.items.map((i) => [i.kind, i.kind === 'link' ? i.url : i.title])).toEqual([
      ['link', 'https://x.example/a?b=1&c=2'],
      ['foreign', 'f'],
    ]);
    expect(codes).toEqual(['foreign-part']);
  });

  it('reads SCORM 2004 of every edition: objectives, limits, rules, thresholds', async () => {
    const of = (version: string) =>
      outlineOf({
        'imsmanifest.xml': `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_v1p3" xmlns:imsss="http://www.imsglobal.org/xsd/imsss"><metadata><schema>ADL SCORM</schema><schemaversion>${version}</schemaversion></metadata>
        <organizations default="o"><organization identifier="o"><title>Course</title><item identifier="i" identifierref="r"><title>Test</title><adlcp:dataFromLMS>seed=7</adlcp:dataFromLMS>${version.includes('4th') ? '<adlcp:completionThreshold completedByMeasure="true" minProgressMeasure="0.75"/>' : '<adlcp:completionThreshold>0.75</adlcp:completionThreshold>'}
        <imsss:sequencing><imsss:sequencingRules><imsss:preConditionRule><imsss:ruleConditions><imsss:ruleCondition condition="satisfied"/></imsss:ruleConditions><imsss:ruleAction action="skip"/></imsss:preConditionRule></imsss:sequencingRules><imsss:limitConditions attemptAbsoluteDurationLimit="PT45M"/><imsss:objectives><imsss:primaryObjective satisfiedByMeasure="true"><imsss:minNormalizedMeasure>0.57</imsss:minNormalizedMeasure></imsss:primaryObjective></imsss:objectives></imsss:sequencing></item></organization></organizations>
        <resources><resource identifier="r" type="webcontent" adlcp:scormType="sco" href="p.html"><file href="p.html"/><dependency identifierref="shared"/></resource><resource identifier="shared" type="webcontent" adlcp:scormType="asset"><file href="s.js"/></resource></resources></manifest>`,
        'p.html': page('P'),
        's.js': '//',
      });
    for (const [version, named] of [
      ['CAM 1.3', '2004 2nd Edition'],
      ['2004 3rd Edition', '2004 3rd Edition'],
      ['2004 4th Edition', '2004 4th Edition'],
    ] as const) {
      const { course, codes } = await of(version);
      expect(codes).toEqual([]);
      expect(course.origin).toEqual({ format: 'scorm', version: named, untouched: true });
      expect(course.items.map((i) => i.settings)).toEqual([
        {
          tracked: true,
          launchData: 'seed=7',
          timeAllowed: 'PT45M',
          completionThreshold: '0.75',
          masteryScore: 57,
          sequencing: ['preConditionRule: skip if satisfied'],
        },
      ]);
    }
  });

  it('reads what SCORM 2004 items share of their sequencing, their objectives, and the way through a folder', async () => {
    const { course, notes } = await outlineOf({
      'imsmanifest.xml': `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_v1p3" xmlns:imsss="http://www.imsglobal.org/xsd/imsss"><metadata><schema>ADL SCORM</schema><schemaversion>2004 4th Edition</schemaversion></metadata>
      <organizations default="o"><organization identifier="o"><title>Course</title>
      <item identifier="f"><title>Part</title>
        <item identifier="i" identifierref="r"><title>Test</title><adlcp:timeLimitAction>exit,message</adlcp:timeLimitAction><imsss:sequencing IDRef="both"><imsss:limitConditions attemptLimit="3"/></imsss:sequencing></item>
        <item identifier="j" identifierref="s"><title>Again</title><imsss:sequencing IDRef="both"/></item>
        <imsss:sequencing><imsss:controlMode choice="false" flow="true" forwardOnly="true"/></imsss:sequencing></item>
      <item identifier="g"><title>Free</title><item identifier="k" identifierref="r"><title>Test</title></item><imsss:sequencing><imsss:controlMode choice="true" flow="true"/></imsss:sequencing></item>
      </organization></organizations>
      <resources><resource identifier="r" type="webcontent" href="p.html"><file href="p.html"/></resource><resource identifier="s" type="webcontent" href="s.html"><file href="s.html"/></resource></resources>
      <imsss:sequencingCollection><imsss:sequencing ID="both"><imsss:limitConditions attemptLimit="9" attemptAbsoluteDurationLimit="PT45M"/><imsss:sequencingRules><imsss:exitConditionRule><imsss:ruleConditions><imsss:ruleCondition operator="not" condition="attempted"/></imsss:ruleConditions><imsss:ruleAction action="exit"/></imsss:exitConditionRule></imsss:sequencingRules><imsss:objectives><imsss:primaryObjective objectiveID="own" satisfiedByMeasure="true"><imsss:minNormalizedMeasure>0.7</imsss:minNormalizedMeasure><imsss:mapInfo targetObjectiveID="whole"/></imsss:primaryObjective><imsss:objective objectiveID="knots"><imsss:minNormalizedMeasure>0.5</imsss:minNormalizedMeasure></imsss:objective></imsss:objectives></imsss:sequencing></imsss:sequencingCollection></manifest>`,
      'p.html': page('P'),
      's.html': page('S'),
    });
    const shared = {
      masteryScore: 70,
      sequencing: [
        'exitConditionRule: exit if not attempted',
        'objective own: shared as whole',
        'objective knots: at least 0.5',
      ],
    };
    expect(course.items.map((i) => i.settings)).toEqual([
      { timeLimitAction: 'exit,message', attempts: 3, ...shared },
      { timeAllowed: 'PT45M', attempts: 9, ...shared },
    ]);
    const [part, free] = course.outline;
    expect(part?.settings).toEqual({ sequencing: ['its parts can not be chosen', 'there is no way back'] });
    expect(free?.settings).toBeUndefined();
    expect(notes).toEqual([]);
  });

  it('reads of each place what is set there, and of a folder with a resource both', async () => {
    const { course } = await outlineOf({
      'imsmanifest.xml': `<manifest xmlns="http://www.imsproject.org/xsd/imscp_rootv1p1p2" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2">
      <metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata>
      <organizations default="o"><organization identifier="o"><title>Course</title>
      <item identifier="f" isvisible="false"><title>Part</title><item identifier="i" identifierref="r"><title>First</title><adlcp:masteryscore>60</adlcp:masteryscore></item><adlcp:prerequisites type="aicc_script">k</adlcp:prerequisites></item>
      <item identifier="k" identifierref="r" parameters="?again=1"><title>Once more</title><adlcp:masteryscore>80</adlcp:masteryscore></item>
      <item identifier="g" identifierref="s"><title>Both</title><item identifier="h" identifierref="r"><title>Inside</title></item></item>
      </organization></organizations>
      <resources><resource identifier="r" type="webcontent" adlcp:scormtype="sco" href="p.html"><file href="p.html"/></resource><resource identifier="s" type="webcontent" href="s.html"><file href="s.html"/></resource></resources></manifest>`,
      'p.html': page('P'),
      's.html': page('S'),
    });
    const [part, again, both] = course.outline;
    expect(part?.settings).toEqual({ hidden: true, prerequisites: 'k' });
    expect(course.items[0]?.settings).toEqual({ tracked: true, masteryScore: 60 });
    expect(again?.settings).toEqual({ masteryScore: 80, parameters: '?again=1' });
    expect([both?.item, both?.children.map((n) => [n.item, n.settings])]).toEqual(['s', [['r', undefined]]]);
  });

  it('joins the parameters of a place to those of its resource', () => {
    expect(withParameters('', '?lang=en')).toBe('?lang=en');
    expect(withParameters('?page=1', '?lang=en')).toBe('?page=1&lang=en');
    expect(withParameters('?page=1#part', '&lang=en')).toBe('?page=1&lang=en#part');
    expect(withParameters('#part', 'lang=en')).toBe('?lang=en#part');
    expect(withParameters('?page=1', '#end')).toBe('?page=1#end');
    expect(withParameters('#part', '#end')).toBe('#part');
    expect(withParameters('?page=1', '?')).toBe('?page=1');
  });

  it('takes times of either edition for durations, and writes them back', () => {
    for (const [timespan, duration] of [
      ['0000:30:00', 'PT30M'],
      ['0001:05:00', 'PT1H5M'],
      ['0000:00:20', 'PT20S'],
      ['0000:00:00', 'PT0S'],
    ] as const) {
      expect(asDuration(timespan)).toBe(duration);
      expect(asTimespan(duration)).toBe(timespan);
    }
    expect(asTimespan('P1DT90M')).toBe('0025:30:00');
    expect(asDuration('whenever')).toBe('whenever');
  });
});
